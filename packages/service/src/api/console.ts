import { existsSync } from 'node:fs';
import { join } from 'node:path';
import express, { Router } from 'express';

/** Serves the built console: its files as they are, and its one page for every address of its own. */
export function consoleRouter(folder: string): Router {
  const router = Router();
  const page = join(folder, 'index.html');
  router.use(
    '/assets',
    express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }),
  );
  router.get(/^\/(?!api\/|assets\/)[^.]*$/, (_request, response, next) => {
    if (!existsSync(page)) {
      next();
      return;
    }
    // The page names its assets by their content, and so must itself be asked for each time.
    response.set('Cache-Control', 'no-cache').sendFile(page);
  });
  router.use(express.static(folder, { index: false }));
  return router;
}
