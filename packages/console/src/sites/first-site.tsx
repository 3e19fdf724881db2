import { Navigate } from 'react-router';
import { client } from '../client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import { useLoad } from '../use-load.ts';
import { AddSite } from './add-site.tsx';

/** The console opens with the grid of the first site, or with adding one. */
export function FirstSite() {
  const sites = useLoad('sites', () => client.sites());
  if (sites.error) return <Failure error={sites.error} retry={sites.reload} />;
  if (!sites.value) return <Waiting what="the sites" />;
  const [first] = sites.value;
  return first ? <Navigate to={`/sites/${first.id}`} replace /> : <AddSite />;
}
