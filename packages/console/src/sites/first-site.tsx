import { useQuery } from '@tanstack/react-query';
import { Navigate } from 'react-router';
import { client } from '../client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import { AddSite } from './add-site.tsx';

/** The console opens with the grid of the first site, or with adding one. */
export function FirstSite() {
  const sites = useQuery({
    queryKey: ['sites'],
    queryFn: () => client.sites(),
    // Someone is sent on by what it says: to a site that is there now.
    gcTime: 0,
  });
  if (sites.error) return <Failure error={sites.error} retry={() => void sites.refetch()} />;
  if (!sites.data) return <Waiting what="the sites" />;
  const [first] = sites.data;
  return first ? <Navigate to={`/sites/${first.id}`} replace /> : <AddSite />;
}
