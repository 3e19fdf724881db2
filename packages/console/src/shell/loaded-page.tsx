import { clsx } from 'clsx';
import type { ReactNode } from 'react';
import { Alert, Button } from 'antd';
import { ErrorBoundary } from 'react-error-boundary';
import { useLocation } from 'react-router';
import layout from '../style/layout.module.css';

/** A page; where its code can't be loaded, the rest of the console stays usable. */
export function LoadedPage({ children }: { children: ReactNode }) {
  const { pathname } = useLocation();
  return (
    <ErrorBoundary FallbackComponent={NotLoaded} resetKeys={[pathname]}>
      {children}
    </ErrorBoundary>
  );
}

/** After an update, the service no longer has the code of the console that is open here. */
function NotLoaded() {
  return (
    <Alert
      className={clsx(layout.notice)}
      type="error"
      showIcon
      title="This page of the console can't be shown."
      description="The service may be down, or may have been updated since the console was opened. Pending changes are kept."
      action={<Button onClick={() => location.reload()}>Load the console again</Button>}
    />
  );
}
