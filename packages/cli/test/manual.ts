import { existsSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { temporaryFolder } from '../../service/test/running.ts';

/** Debian's PostgreSQL manual, which scripts/test.mjs brings; without it, a tree of the same size. */
export function manual(): string {
  const installed = readdirSync('/usr/share/doc')
    .filter((name) => /^postgresql-doc-\d+$/.test(name))
    .map((name) => join('/usr/share/doc', name, 'html'))
    .find((path) => existsSync(join(path, 'index.html')));
  if (installed) return installed;
  const made = temporaryFolder();
  const links = Array.from({ length: 1100 }, (_, i) => `<a href="page-${i}.html">${i}</a>`).join(
    '',
  );
  writeFileSync(
    join(made.path, 'index.html'),
    `<title>Index</title><a href="index.html">Index</a>${links}`,
  );
  for (let i = 0; i < 1100; i++)
    writeFileSync(join(made.path, `page-${i}.html`), `<title>Page ${i}</title>`);
  return made.path;
}
