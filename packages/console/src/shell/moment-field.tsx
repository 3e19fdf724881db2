import { clsx } from 'clsx';
import { useId, useRef, useState } from 'react';
import { Button, Input } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import { namesQuery } from '../changes/names-query.ts';
import { isMoment } from './is-moment.ts';
import type { SiteFrame } from './shell.tsx';
import { useTyped } from './typed-input.tsx';
import css from './moment-field.module.css';
import layout from '../style/layout.module.css';

/**
 * The moment that a page is about, in the time zone of the site: typed or pasted as ISO 8601 has it, or chosen from
 * the browser's calendar. What can't be read is told once the field is left, and asked for by nobody.
 */
export function MomentField({
  value,
  onChange,
}: {
  /** Empty where it is now. */
  value: string;
  onChange: (next: string) => void;
}) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const zone = useQuery(namesQuery(site.id, pending)).data?.timeZone;
  const isElsewhere =
    zone !== undefined && zone !== new Intl.DateTimeFormat().resolvedOptions().timeZone;
  const field = useTyped(value, (next) => {
    const moment = next.trim();
    if (moment !== '' && !isMoment(moment)) return null;
    onChange(moment);
    return moment;
  });
  const typed = field.value;
  const [isLeft, setIsLeft] = useState(false);
  const calendar = useRef<HTMLInputElement>(null);
  const [id, zoneId, errorId] = [useId(), useId(), useId()];
  const isWrong = isLeft && typed.trim() !== '' && !isMoment(typed);
  const take = (next: string): void => {
    field.type(next);
    setIsLeft(false);
  };
  return (
    <div className={css.moment}>
      <label htmlFor={id}>At</label>
      <span className={css.field}>
        <Input
          id={id}
          placeholder="2027-03-01 10:00"
          value={typed}
          onChange={({ target }) => take(target.value)}
          onBlur={() => {
            field.flush();
            setIsLeft(true);
          }}
          suffix={
            isElsewhere ? (
              <span id={zoneId} className={layout.quiet}>
                {zone}
              </span>
            ) : null
          }
          aria-describedby={clsx(isWrong && errorId, isElsewhere && zoneId) || undefined}
          {...(isWrong ? { status: 'error', 'aria-invalid': true } : {})}
        />
        <Button onClick={() => calendar.current?.showPicker()}>Calendar</Button>
        <input
          ref={calendar}
          type="datetime-local"
          className={css.calendar}
          aria-hidden
          tabIndex={-1}
          value={isMoment(value) ? `${value.slice(0, 10)}T${value.slice(11, 16) || '00:00'}` : ''}
          onChange={({ target }) => take(target.value)}
        />
      </span>
      {isWrong && (
        <span id={errorId} role="alert" className={layout.refused}>
          Write it as 2027-03-01, or as 2027-03-01 10:00.
        </span>
      )}
    </div>
  );
}
