import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { constants } from 'node:zlib';
import compression from 'compression';
import express, { Router } from 'express';

/** Asked for once and stored for a year: a little more work than usual is worth a tenth of their size. */
const SMALL = { level: 9, brotli: { params: { [constants.BROTLI_PARAM_QUALITY]: 6 } } };

/** The addresses of the console's pages, as its own routes have them. */
const PAGES =
  /^\/(?:sites\/[^/]+(?:\/(?:pages|gates|visitors|changes|file|try(?:\/list)?|(?:names|addresses|site|live)(?:\/[a-z-]+)?))?\/?)?$/;

/** Serves the built console: its files as they are, and its one page for every address of its own. */
export function consoleRouter(folder: string): Router {
  const router = Router();
  const page = join(folder, 'index.html');
  // Nothing in them is secret, so that their length tells nothing; answers of the API are sent as they are.
  router.use(
    '/assets',
    compression(SMALL),
    express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }),
  );
  router.use(express.static(folder, { index: false }));
  router.get(/^/, (request, response, next) => {
    const isPage = PAGES.test(request.path);
    // Whoever looks at it is told by the console that nothing is there; programs get a problem document.
    if (!existsSync(page) || (!isPage && request.accepts(['json', 'html']) !== 'html')) {
      next();
      return;
    }
    // The page names its assets by their content, and so must itself be asked for each time.
    response
      .status(isPage ? 200 : 404)
      .set('Cache-Control', 'no-cache')
      .sendFile(page);
  });
  return router;
}
