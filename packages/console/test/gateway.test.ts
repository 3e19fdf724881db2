import { chromium, type Browser, type BrowserContext, type Page } from 'playwright-core';
import { createClient } from '@kleidon/client';
import { CHROMIUM } from '../../core/test/chromium.ts';
import { temporaryFolder } from '../../service/test/running.ts';
import { sampleSite, type SampleSite } from '../../service/test/sample.ts';
import { barriers, go, windowsOf, type ConsoleWindows } from './browser.ts';

const folder = temporaryFolder();
let site: SampleSite;
let browser: Browser;
let console: ConsoleWindows;

beforeAll(async () => {
  [site, browser] = await Promise.all([
    sampleSite(folder.path, {
      // The website itself, which lets everyone in.
      more: (website) => `probes:
  - { site: merrow-point, website: '${website}', every: 1d, pause: 0, visitors: [gale] }
`,
    }),
    chromium.launch(CHROMIUM),
  ]);
  console = await windowsOf(browser, site.service().address, 'merrow-point');
});
afterAll(async () => {
  await site.end();
  folder.remove();
  await console.close();
});

/** A private window. */
const inPrivate = async (): Promise<BrowserContext> => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  context.setDefaultTimeout(15_000);
  return context;
};
const path = (page: Page): string => page.url().slice(site.gateway.length);
const heading = (page: Page): Promise<string> => page.locator('h1').innerText();
let window: Promise<Page> | undefined;
/** Opens a page as a visitor of the sample, as a click in the grid does: in one window, whoever it was before. */
const openAs = async (visitor: string, to: string): Promise<Page> => {
  const page = await (window ??= inPrivate().then((context) => context.newPage()));
  await page.goto(`${site.gateway}/.kleidon/open-as?as=${visitor}&to=${encodeURIComponent(to)}`);
  return page;
};
const menu = async (page: Page, label: string): Promise<string[]> =>
  page.getByRole('navigation', { name: label }).getByRole('link').allInnerTexts();

describe('the website of the sample behind its gateway', () => {
  test('reach: a guest sees an open page', async () => {
    const page = await openAs('', '/about');
    expect([path(page), await heading(page)]).toEqual(['/about', 'About us']);
  });

  test('sign-in and back: a guest asks for a page, signs in, and is there', async () => {
    const page = await (await inPrivate()).newPage();
    await page.goto(`${site.gateway}/members/photos`);
    expect(path(page)).toBe('/sign-in?return=%2Fmembers%2Fphotos');
    await page.getByRole('main').getByRole('button', { name: 'Sign in' }).click();
    expect(await heading(page)).toBe('Who are you today?');
    expect(await barriers(page)).toEqual([]);
    await page.getByRole('button', { name: /^Mia/ }).click();
    await page.waitForURL(`${site.gateway}/members/photos`);
    expect(await heading(page)).toBe('Photos by members');
    // The website is asked again, and the session goes on.
    await page.reload();
    expect(await heading(page)).toBe('Photos by members');
    await page.context().close();
  });

  test('landings: without a page asked for, each lands where the rules say', async () => {
    for (const [visitor, landing] of [
      ['Wren', '/crew/rota'],
      ['Mia', '/members'],
    ] as const) {
      const page = await (await inPrivate()).newPage();
      await page.goto(`${site.gateway}/sign-in`);
      await page.getByRole('main').getByRole('button', { name: 'Sign in' }).click();
      await page.getByRole('button', { name: new RegExp(`^${visitor}`) }).click();
      await page.waitForURL(site.gateway + landing);
      expect(page.url()).toBe(site.gateway + landing);
      await page.context().close();
    }
  });

  test('sign-out: through the link on the page, at the provider too, and home', async () => {
    const page = await openAs('vik', '/crew/rota');
    await page.getByRole('link', { name: 'Sign out' }).click();
    expect(await page.locator('p').first().innerText()).toBe('You are signed in as Vik.');
    expect(await barriers(page)).toEqual([]);
    await page.getByRole('button', { name: 'Sign out', exact: true }).click();
    await page.waitForURL(`${site.gateway}/`);
    await page.getByRole('link', { name: 'Sign in' }).waitFor();
    await page.goto(`${site.gateway}/crew/rota`);
    expect(path(page)).toBe('/sign-in?return=%2Fcrew%2Frota');
    // The provider has forgotten them as well, and asks again who it is.
    await page.getByRole('main').getByRole('button', { name: 'Sign in' }).click();
    expect(await heading(page)).toBe('Who are you today?');
  });

  test('block: refused with words, with a page of the website, and by an offer', async () => {
    const page = await openAs('mia', '/crew');
    expect(await page.locator('p').innerText()).toBe(
      'The crew room is for people who help at the reserve.',
    );
    expect(await barriers(page)).toEqual([]);
    await openAs('vik', '/crew/ringing-log');
    expect([path(page), await heading(page)]).toEqual(['/crew/ringing-log', 'For the crew']);
    const again = await page.reload();
    expect(again?.status()).toBe(403);
    await openAs('lars', '/permit/booking');
    expect(path(page)).toBe('/shop/hide-permit?return=%2Fpermit%2Fbooking');
  });

  test('missing: what is hidden looks like what is not there', async () => {
    const page = await openAs('mia', '/trustees');
    const hidden = await page.content();
    expect((await page.reload())?.status()).toBe(404);
    await page.goto(`${site.gateway}/no-such-page`);
    expect(await page.content()).toBe(hidden);
    expect(await heading(page)).toBe('Nothing here');
    expect((await page.goto(`${site.gateway}/blog`))?.status()).toBe(410);
    await openAs('cleo', '/song-course/13');
    expect(await page.locator('p').innerText()).toBe(
      'There is no lesson 13; the course has twelve.',
    );
  });

  // The browser's own page of what went wrong comes when it likes: these have windows of their own.
  test('away: the browser leaves for another site', async () => {
    const page = await (await inPrivate()).newPage();
    await page.goto(`${site.gateway}/about`);
    const asked = page.waitForRequest('https://tides.example/merrow');
    await page.getByRole('link', { name: 'Tide tables' }).click();
    expect((await asked).isNavigationRequest()).toBe(true);
    await page.context().close();
  });

  test('loop: the browser gives up, as the grid says', async () => {
    const page = await (await openAs('mia', '/about')).context().newPage();
    await expect(page.goto(`${site.gateway}/staff`)).rejects.toThrow('ERR_TOO_MANY_REDIRECTS');
    await page.close();
  });

  test('invalid: an address that can be read in two ways', async () => {
    const page = await openAs('wren', '/about');
    expect((await page.goto(`${site.gateway}/crew%2Frota`))?.status()).toBe(400);
  });

  test('a redirect, a page that waits before it leads on, and a readable address', async () => {
    const page = await openAs('mia', '/latest');
    expect(path(page)).toBe('/sightings');
    await page.goto(`${site.gateway}/activity?person=robin`);
    expect([path(page), await heading(page)]).toEqual(['/people/robin', 'Sightings of robin']);
    await page.goto(`${site.gateway}/photo-album`);
    expect(await page.locator('p').innerText()).toBe("The album is now among the members' photos.");
    await page.getByRole('link', { name: 'Go there now' }).click();
    expect(path(page)).toBe('/members/photos');
  });

  test('parts: each sees the blocks that are for them', async () => {
    const seen = async (visitor: string): Promise<string[]> => {
      const page = await openAs(visitor, '/');
      const blocks = await page.locator('section h2').allInnerTexts();
      const ways = await page.locator('.who').allInnerTexts();
      return [...blocks, ...ways];
    };
    expect(await seen('')).toEqual(['Sign in']);
    expect(await seen('mia')).toEqual(['Latest photos', 'Sign out']);
    expect(await seen('vik')).toEqual(['Latest photos', 'For the crew', 'Sign out']);
  });

  test('menus: each sees the links that work for them', async () => {
    const open = ['Home', 'Visit', 'Sightings', 'Journal', 'Shop'];
    const end = ['Join', 'About'];
    const menus: Record<string, string[]> = {};
    for (const visitor of ['', 'vik', 'tomas']) {
      const page = await openAs(visitor, '/about');
      menus[visitor] = await menu(page, 'Main');
      expect(await menu(page, 'Foot')).toEqual(['Terms', 'Privacy', 'Tide tables']);
    }
    expect(menus).toEqual({
      '': [...open, ...end],
      vik: [...open, 'Members', 'Crew', ...end],
      tomas: [...open, 'Members', 'Trustees', ...end],
    });
    const wren = await openAs('wren', '/crew');
    expect(await menu(wren, 'Crew')).toEqual(['Rota', 'Swaps', 'Handbook', 'Ringing log']);
    // An entry that lost its link leaves no empty place behind.
    expect(await wren.locator('nav li:not(:has(a))').count()).toBe(0);
  });
});

describe('the console while the gateway runs', () => {
  test('a page is opened as a visitor from the cell of the grid', async () => {
    const page = await console.look('/reach?page=%2Fcrew%2Frota&visitor=vik&visit=open');
    const [opened] = await Promise.all([
      page.context().waitForEvent('page'),
      page.getByRole('link', { name: 'Open this page as vik' }).click(),
    ]);
    await opened.waitForURL(`${site.gateway}/crew/rota`);
    expect(await heading(opened)).toBe('Rota');
    // From the next cell as someone else, in the same browser.
    await go(page, `/sites/merrow-point/reach?page=%2Fcrew&visitor=mia&visit=open`);
    const [other] = await Promise.all([
      page.context().waitForEvent('page'),
      page.getByRole('link', { name: 'Open this page as mia' }).click(),
    ]);
    await other.waitForURL(`${site.gateway}/crew`);
    await other.getByText('The crew room is for people who help at the reserve.').waitFor();
    await go(page, `/sites/merrow-point/reach?page=%2Fcrew&visitor=gale&visit=open`);
    const [guest] = await Promise.all([
      page.context().waitForEvent('page'),
      page.getByRole('link', { name: 'Open this page as gale' }).click(),
    ]);
    await guest.waitForURL(`${site.gateway}/sign-in?return=%2Fcrew`);
  });

  test('shows what is live, how the website does and the requests by how they ended', async () => {
    const page = await console.look('/live');
    await page.getByText('Release 1, ').waitFor();
    await page.getByText('✓ answers').waitFor();
    const rows = page.getByRole('table', { name: /requests; a bar is/ }).locator('tbody tr');
    await rows.first().waitFor();
    const names = await rows.locator('th').allInnerTexts();
    for (const word of ['reach', 'sign in', 'block', 'missing', 'redirect'])
      expect(names.some((name) => name.includes(word))).toBe(true);
    expect(await rows.first().locator('.recharts-bar-rectangle path').count()).toBeGreaterThan(0);
    await page.getByRole('combobox', { name: 'Time shown' }).click();
    await page.locator('.ant-select-item-option', { hasText: 'the last week' }).click();
    await page.waitForURL(/hours=168/);
    expect(await barriers(page)).toEqual([]);
  });

  test('a miss becomes a redirect with one click', async () => {
    for (let i = 0; i < 2; i++) await fetch(`${site.gateway}/jurnal`);
    const misses = '/sites/merrow-point/live/misses?text=jurnal';
    const page = await console.look(misses);
    const button = page.getByRole('button', { name: 'Redirect /jurnal to /journal', exact: true });
    // What was noted is written down every two seconds.
    while ((await page.getByText(/\d+ address/).innerText()).startsWith('0'))
      await go(page, misses);
    await button.waitFor();
    expect(await barriers(page)).toEqual([]);
    await button.click();
    await page.getByText('The redirect from /jurnal to /journal is pending.').waitFor();
    await page.getByRole('link', { name: '1 pending change' }).click();
    await page.getByRole('button', { name: 'Save to the draft' }).click();
    await page.getByText(/Saved as version \d+ of the draft/).waitFor();
    const { text } = await createClient(site.service().address).draft('merrow-point');
    expect(text).toContain('{ from: /jurnal, to: /journal, kind: permanent }');
    await go(page, misses);
    await page.getByRole('button', { name: 'Forget /jurnal' }).click();
    await page.getByText('No miss fits this search.').waitFor();
  });

  test('redirects in use and sessions; a session that is ended is over', async () => {
    const vik = await openAs('vik', '/crew-news');
    expect(path(vik)).toBe('/crew');
    const page = await console.look('/live/redirects?order=unused');
    await page.getByText(/\d+ of 15 redirects of the live release are in use/).waitFor();
    expect(await page.locator('tbody tr.ant-table-row').first().innerText()).toContain('never');
    expect(await barriers(page)).toEqual([]);
    await page.getByRole('link', { name: 'Sessions' }).click();
    await page.getByRole('button', { name: 'End all of Vik' }).first().click();
    await page.getByText(/sessions? of Vik ended\./).waitFor();
    expect(await barriers(page)).toEqual([]);
    await vik.reload();
    expect(path(vik)).toBe('/sign-in?return=%2Fcrew');
  });

  test('the probe shows where the website differs, and is begun with a click', async () => {
    const page = await console.look('');
    await page.getByText('× 27 differences from the rules').waitFor();
    await page.getByRole('link', { name: 'The probe' }).click();
    await page.getByText('25 of 52 visits as release').waitFor();
    expect(await barriers(page)).toEqual([]);
    await page.getByRole('textbox', { name: 'Search differences' }).fill('ringing-log');
    await page.getByText('2 differences.').waitFor();
    await page.getByRole('button', { name: 'Probe now' }).click();
    await page.getByText('Last 2 runs').click();
    await page.getByRole('columnheader', { name: 'Release' }).waitFor();
    expect(await barriers(page)).toEqual([]);
    await page.getByRole('link', { name: '/crew/ringing-log', exact: true }).click();
    await page.getByText('303 to /sign-in').or(page.getByText('sign in').first()).first().waitFor();
    const { searchParams } = new URL(page.url());
    expect(Object.fromEntries(searchParams)).toMatchObject({ as: 'gale', state: 'live' });
  });

  test('without a gateway it says how to get one', async () => {
    await createClient(site.service().address).addSite(
      'kleidon: 1\nsite: { name: Other, address: https://other.example }\npages: { /: Home }\n',
      'other',
    );
    const page = await console.look('/sites/other/live');
    await page.getByText('No gateway runs for this site').waitFor();
    expect(await page.locator('pre').innerText()).toContain('site: other');
    expect(await barriers(page)).toEqual([]);
  });
});
