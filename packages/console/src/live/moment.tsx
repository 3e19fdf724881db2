import { useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import { namesQuery } from '../changes/names-query.ts';
import type { SiteFrame } from '../shell/shell.tsx';
import layout from '../style/layout.module.css';
import { inZone, MOMENT } from './in-zone.ts';

/** A moment in the time zone of whoever looks, and in that of the site where it differs. */
export function Moment({ at }: { at: string }) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const zone = useQuery(namesQuery(site.id, pending)).data?.timeZone;
  const there = zone === undefined ? null : inZone(new Date(at), zone);
  return (
    <time dateTime={at}>
      {MOMENT.format(new Date(at))}
      {there !== null && (
        <span className={layout.quiet}>
          {' '}
          ({there} in {zone})
        </span>
      )}
    </time>
  );
}
