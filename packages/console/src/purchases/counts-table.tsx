import { Bar, BarChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { Link } from 'react-router';
import type { PurchaseSummary } from '@kleidon/client';
import live from '../live/live.module.css';
import layout from '../style/layout.module.css';

type Product = PurchaseSummary['products'][number];

const COUNTS = [
  ['inForce', 'In force', 'in-force'],
  ['inGrace', 'of them in grace', null],
  ['notRenewed', 'not renewed', null],
  ['paused', 'Paused', 'paused'],
  ['lapsed', 'Lapsed', 'lapsed'],
  ['refunded', 'Refunded', 'refunded'],
  ['upcoming', 'Begin later', 'upcoming'],
] as const;

const MONTH = new Intl.DateTimeFormat(undefined, {
  month: 'short',
  year: 'numeric',
  timeZone: 'UTC',
});
const DAY = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short' });

/** How many purchases of each product there are, were and will be; each row of bars has a scale of its own. */
export function CountsTable({
  summary,
  listOf,
}: {
  summary: PurchaseSummary;
  /** Where those of a product in a state are listed. */
  listOf: (product: string, state: string) => string;
}) {
  const { products, months, endings } = summary;
  return (
    <table className={live.traffic}>
      <caption className={layout.quiet}>
        A bar is the first of a month, or ten days; each row has a scale of its own.
      </caption>
      <thead>
        <tr>
          <th scope="col">Product</th>
          {COUNTS.map(([field, title]) => (
            <th key={field} scope="col" className={live.number}>
              {title}
            </th>
          ))}
          <th scope="col">
            In force, {MONTH.format(new Date(months[0]!))} to{' '}
            {MONTH.format(new Date(months.at(-1)!))}
          </th>
          <th scope="col" className={live.number}>
            End in 90 days
          </th>
          <th scope="col">
            {DAY.format(new Date(endings[0]!))} to {DAY.format(new Date(endings.at(-1)!))}
          </th>
        </tr>
      </thead>
      <tbody>
        {products.map((one) => (
          <tr key={one.product}>
            <th scope="row">
              {one.title ?? <code>{one.product}</code>}
              {one.title === null && <div className={layout.quiet}>not in the live site file</div>}
            </th>
            {COUNTS.map(([field, title, state]) => (
              <td key={field} className={live.number}>
                <Count
                  one={one}
                  field={field}
                  title={title}
                  to={state && listOf(one.product, state)}
                />
              </td>
            ))}
            <td>
              <Bars
                values={one.inForceAt}
                labelOf={(i) => MONTH.format(new Date(months[i]!))}
                word="in force"
                now={months.findLastIndex((at) => at <= summary.at)}
              />
            </td>
            <td className={live.number}>{one.ending.reduce((sum, count) => sum + count, 0)}</td>
            <td>
              <Bars
                values={one.ending}
                labelOf={(i) =>
                  `${DAY.format(new Date(endings[i]!))} to ${DAY.format(new Date(endings[i + 1]!))}`
                }
                word="end"
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Count({
  one,
  field,
  title,
  to,
}: {
  one: Product;
  field: (typeof COUNTS)[number][0];
  title: string;
  to: string | null;
}) {
  const count = one[field];
  if (count === 0 || to === null) return count.toLocaleString();
  return (
    <Link to={to} aria-label={`${count} of ${one.title ?? one.product}: ${title}`}>
      {count.toLocaleString()}
    </Link>
  );
}

function Bars({
  values,
  labelOf,
  word,
  now = -1,
}: {
  values: readonly number[];
  labelOf: (position: number) => string;
  word: string;
  /** The last bar that has been; those after it are to come. */
  now?: number;
}) {
  const peak = Math.max(...values);
  if (peak === 0) return null;
  const all = values.reduce((sum, value) => sum + value, 0);
  const data = values.map((value, i) => ({
    i,
    past: i <= now || now === -1 ? value : 0,
    next: i > now && now !== -1 ? value : 0,
  }));
  return (
    <div
      role="img"
      aria-label={
        now === -1
          ? `${all} ${word}: ${values.map((value, i) => `${value} ${labelOf(i)}`).join(', ')}`
          : `${values[0]} ${labelOf(0)}, ${values[now]} ${labelOf(now)}, ${values.at(-1)} ${labelOf(values.length - 1)}`
      }
    >
      <ResponsiveContainer width={170} height={46}>
        <BarChart
          data={data}
          margin={{ top: 2, right: 0, bottom: 0, left: 0 }}
          accessibilityLayer={false}
          barCategoryGap={1}
        >
          <XAxis dataKey="i" hide />
          <YAxis domain={[0, peak]} hide />
          <Tooltip
            cursor={{ fill: 'var(--here)' }}
            isAnimationActive={false}
            content={({ active, payload }) => {
              const bar = payload[0]?.payload as (typeof data)[number] | undefined;
              return active && bar ? (
                <span className={live.tip}>
                  {labelOf(bar.i)}: {bar.past + bar.next} {word}
                </span>
              ) : null;
            }}
          />
          <Bar dataKey="past" stackId="one" fill="var(--link)" isAnimationActive={false} />
          <Bar
            dataKey="next"
            stackId="one"
            fill="none"
            stroke="var(--link)"
            isAnimationActive={false}
          />
        </BarChart>
      </ResponsiveContainer>
    </div>
  );
}
