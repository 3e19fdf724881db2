import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { chromium, type Browser, type Locator, type Page } from 'playwright-core';
import { createClient, type Client } from '@kleidon/client';
import { CHROMIUM } from '../../core/test/chromium.ts';
import { run, SAMPLE, temporaryFolder, type Running } from '../../service/test/running.ts';

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/** The console in a real browser. */
export interface ConsoleWindows {
  /** Opens an address of the console's own site, such as `/reach`, or of another (`/sites/…`), in a window of its own. */
  open(path: string): Promise<Page>;
  /** The same in a window that tests share, which goes there as by a link: nothing is left of what was there before. */
  look(path: string): Promise<Page>;
  /** Closes the browser. Whatever a test looked at, no script of the console may have failed meanwhile. */
  close(): Promise<void>;
}

/**
 * @param service where the service is
 * @param site the console's own site
 */
export async function windowsOf(
  browser: Browser,
  service: string,
  site: string,
): Promise<ConsoleWindows> {
  const addressOf = (path: string): string =>
    path.startsWith('/sites/') ? path : `/sites/${site}${path}`;
  // What was loaded once is loaded.
  const shared = await browser.newContext({ viewport: VIEWPORT });
  await shared.addInitScript(forgetOnce);
  const faults: string[] = [];
  const open: ConsoleWindows['open'] = async (path) => {
    const page = await shared.newPage();
    page.setDefaultTimeout(15_000);
    page.on('pageerror', (error) => faults.push(error.message));
    await page.goto(service + addressOf(path));
    return page;
  };
  let sharedPage: Promise<Page> | undefined;
  return {
    open,
    look: async (path) => {
      const page = await (sharedPage ??= open('/nowhere'));
      await page.unrouteAll();
      await page.evaluate(() => {
        localStorage.clear();
        sessionStorage.clear();
      });
      // By way of another site, so that the pending changes are those of a new browser.
      await by(page, '/sites/none', 'There is no site "none".', addressOf(path));
      return page;
    },
    close: async () => {
      await browser.close();
      if (faults.length > 0) throw new Error(faults.join('\n'));
    },
  };
}

/** The console before a real service that has the sample site. */
export interface Stage extends ConsoleWindows {
  readonly service: Running;
  readonly client: Client;
}

export async function setStage(): Promise<Stage> {
  const folder = temporaryFolder();
  const [service, browser] = await Promise.all([
    run(folder.path, '--log-level', 'warn'),
    chromium.launch(CHROMIUM),
  ]);
  const client = createClient(service.address);
  await client.addSite(readFileSync(SAMPLE, 'utf8'), 'merrow');
  const windows = await windowsOf(browser, service.address, 'merrow');
  return {
    service,
    client,
    ...windows,
    close: async () => {
      await service.end();
      folder.remove();
      await windows.close();
    },
  };
}

const VIEWPORT = { width: 1280, height: 800 };

/** A new window knows nothing of what others kept in the browser; its own reloads do. */
function forgetOnce(): void {
  if (window.name !== '') return;
  window.name = 'begun';
  localStorage.clear();
  sessionStorage.clear();
}

/** Goes to another address as a link does, without loading the console anew; once this is done, it is there. */
export const go = (page: Page, address: string): Promise<void> =>
  by(
    page,
    `${/^\/sites\/[^/?]+/.exec(address)?.[0]}/nowhere`,
    'There is nothing at this address',
    address,
  );

/** By way of a page that looks like no other, so that the next is not taken for the last one. */
async function by(page: Page, way: string, sign: string, address: string): Promise<void> {
  await push(page, way);
  await page.waitForFunction((text) => document.body.textContent.includes(text), sign);
  await push(page, address);
  await page.waitForFunction(
    (texts) => !texts.some((text) => document.body.textContent.includes(text)),
    [sign, LOADING],
  );
}

const push = (page: Page, address: string): Promise<void> =>
  page.evaluate((url) => {
    history.pushState(null, '', url);
    dispatchEvent(new PopStateEvent('popstate'));
  }, address);

const LOADING = 'Loading';

const loaded = (page: Page): Promise<unknown> =>
  page.waitForFunction((text) => !document.body.textContent.includes(text), LOADING);

/**
 * What a page has against WCAG 2.2, levels A and AA, in light and in dark; the themes differ in colours alone. It
 * stays in the theme that it came to last: each change of it draws the whole page anew.
 */
export async function barriersInBothThemes(page: Page): Promise<string[]> {
  const isDark = await page.evaluate(() => document.documentElement.dataset['theme'] === 'dark');
  const [theme, other] = isDark ? (['dark', 'light'] as const) : (['light', 'dark'] as const);
  const own = await barriers(page);
  await page.emulateMedia({ colorScheme: other });
  await page.locator(`html[data-theme=${other}]`).waitFor();
  const colours = await barriers(page, COLOURS);
  return [
    ...own.map((one) => `in ${theme}: ${one}`),
    ...colours.map((one) => `in ${other}: ${one}`),
  ];
}

/** The same, and at 640 pixels too, where nothing may stand beside what is seen; how wide a page is changes no colour. */
export async function barriersAtAllWidths(page: Page): Promise<string[]> {
  const tooWide = async (width: number): Promise<string[]> => {
    const own = await page.evaluate(() => document.documentElement.scrollWidth);
    return own === width ? [] : [`it is ${own} pixels wide at ${width}`];
  };
  await loaded(page);
  const wide = [...(await barriersInBothThemes(page)), ...(await tooWide(1280))];
  await page.setViewportSize({ width: 640, height: 800 });
  await loaded(page);
  const narrow = [...(await barriers(page)), ...(await tooWide(640))];
  await page.setViewportSize(VIEWPORT);
  return [...wide, ...narrow.map((one) => `at 640 pixels: ${one}`)];
}

const ALL_RULES = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];
/** The rules for which colours count. */
const COLOURS = ['color-contrast', 'link-in-text-block'];

/** What a page has against WCAG 2.2, levels A and AA, as far as a program can tell. */
export async function barriers(page: Page, only = ALL_RULES): Promise<string[]> {
  // The console forbids foreign scripts, so that this one is run beside its policy and not through it.
  if (!(await page.evaluate(() => 'axe' in globalThis))) await page.evaluate(AXE);
  const { violations } = await page.evaluate(
    (values) =>
      (
        globalThis as unknown as {
          axe: {
            run(
              options: object,
            ): Promise<{ violations: { id: string; nodes: { html: string }[] }[] }>;
          };
        }
      ).axe.run({ runOnly: values, resultTypes: ['violations'] }),
    only,
  );
  return (
    violations
      .map(({ id, nodes }) => ({ id, html: nodes.map(({ html }) => html.slice(0, 200)) }))
      // The editor scrolls with its text, which has the focus; the program looks at the frame around it.
      .filter(
        ({ id, html }) =>
          !(
            id === 'scrollable-region-focusable' && html.every((one) => one.includes('cm-scroller'))
          ),
      )
      .map(({ id, html }) => `${id}: ${html.join(' | ')}`)
  );
}

/** Waits until something is there, and tells whether a person can see it. */
export async function isSeen(locator: Locator): Promise<boolean> {
  await locator.first().waitFor();
  return locator.first().isVisible();
}

/** Adds what a form has to the pending changes, and waits until the service keeps it. */
export async function keep(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Add to pending changes' }).click();
  await page.getByText('The change is pending.', { exact: true }).waitFor();
}
