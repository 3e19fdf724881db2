import { Bar, BarChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { OUTCOME_WORDS, type Traffic } from '@kleidon/client';
import type { decisions } from '@kleidon/core';
import layout from '../style/layout.module.css';
import css from './live.module.css';

/** How a request can end at a gateway, in words; those that visits have too are called the same. */
const ENDS: readonly (readonly [string, string, string])[] = [
  ...(['reach', 'sign-in', 'block', 'missing', 'away', 'invalid'] as const).map(
    (outcome: decisions.Outcome) =>
      [outcome, OUTCOME_WORDS[outcome].sign, OUTCOME_WORDS[outcome].word] as const,
  ),
  ['redirect', '→', 'redirect'],
  ['failed', '‼', 'website failed'],
];

const MINUTE = 60_000;

interface Step {
  readonly at: number;
  readonly count: number;
}

/** Requests over time, in a row of bars for each way to end: which is which is told by words. */
export function TrafficPlot({ traffic, hours }: { traffic: Traffic; hours: number }) {
  const { minutes, counts } = traffic;
  if (counts.length === 0)
    return <p className={layout.notice}>Nobody has asked for anything in this time.</p>;
  const size = minutes * MINUTE;
  const last = Math.floor((Date.parse(traffic.since) + hours * 60 * MINUTE) / size) * size;
  const first = Math.floor(Date.parse(traffic.since) / size) * size;
  const times = Array.from({ length: (last - first) / size + 1 }, (_, i) => first + i * size);
  const all = counts.reduce((sum, { count }) => sum + count, 0);
  const rows = ENDS.map(([outcome, sign, word]) => {
    const own = new Map(
      counts
        .filter((one) => one.outcome === outcome)
        .map(({ from, count }) => [Date.parse(from), count]),
    );
    return {
      outcome,
      sign,
      word,
      total: [...own.values()].reduce((sum, count) => sum + count, 0),
      peak: Math.max(0, ...own.values()),
      steps: times.map((at): Step => ({ at, count: own.get(at) ?? 0 })),
    };
  }).filter(({ total }) => total > 0);
  return (
    <table className={css.traffic}>
      <caption className={layout.quiet}>
        {all.toLocaleString()} requests; a bar is{' '}
        {minutes === 1 ? 'a minute' : `${minutes} minutes`}, and each row has a scale of its own.
      </caption>
      <thead>
        <tr>
          <th scope="col">Ended</th>
          <th scope="col" className={css.number}>
            Requests
          </th>
          <th scope="col" className={css.number}>
            Share
          </th>
          <th scope="col" className={css.number}>
            Tallest bar
          </th>
          <th scope="col">
            From {labelOf(first, hours)} to {labelOf(last, hours)}
          </th>
        </tr>
      </thead>
      <tbody>
        {rows.map(({ outcome, sign, word, total, peak, steps }) => (
          <tr key={outcome}>
            <th scope="row">
              <span aria-hidden="true">{sign}</span> {word}
            </th>
            <td className={css.number}>{total.toLocaleString()}</td>
            <td className={css.number}>{((100 * total) / all).toFixed(1)} %</td>
            <td className={css.number}>{peak.toLocaleString()}</td>
            <td>
              <ResponsiveContainer width="100%" height={46}>
                <BarChart
                  data={steps}
                  margin={{ top: 2, right: 0, bottom: 0, left: 0 }}
                  accessibilityLayer={false}
                  barCategoryGap={1}
                >
                  <XAxis dataKey="at" hide />
                  <YAxis domain={[0, peak]} hide />
                  <Tooltip
                    cursor={{ fill: 'var(--here)' }}
                    isAnimationActive={false}
                    content={({ active, payload }) => {
                      const step = payload[0]?.payload as Step | undefined;
                      return active && step ? (
                        <span className={css.tip}>
                          {labelOf(step.at, hours)}: {step.count.toLocaleString()} {word}
                        </span>
                      ) : null;
                    }}
                  />
                  <Bar
                    dataKey="count"
                    fill={COLOURS[outcome] ?? 'var(--quiet)'}
                    isAnimationActive={false}
                    minPointSize={(value) => (value ? 2 : 0)}
                  />
                </BarChart>
              </ResponsiveContainer>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const COLOURS: Readonly<Record<string, string>> = {
  redirect: 'var(--link)',
  failed: 'var(--block)',
  ...Object.fromEntries(
    ['reach', 'sign-in', 'block', 'missing', 'away', 'invalid'].map((one) => [
      one,
      `var(--${one})`,
    ]),
  ),
};

const HOUR = new Intl.DateTimeFormat(undefined, { hour: '2-digit', minute: '2-digit' });
const DAY = new Intl.DateTimeFormat(undefined, {
  weekday: 'short',
  hour: '2-digit',
  minute: '2-digit',
});

const labelOf = (at: number, hours: number): string => (hours > 12 ? DAY : HOUR).format(at);
