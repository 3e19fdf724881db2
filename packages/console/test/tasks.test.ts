import type { Page } from 'playwright-core';
import {
  barriers,
  barriersAtAllWidths,
  barriersInBothThemes,
  go,
  keep,
  isSeen,
  setStage,
  type Stage,
} from './browser.ts';

let stage: Stage;
beforeAll(async () => {
  stage = await setStage();
});
afterAll(() => stage.close());

const card = (page: Page, name: string) => page.getByRole('region', { name });

describe('the overview', () => {
  test('leads to what people come to do, and to every task', async () => {
    const page = await stage.open('/reach');
    await page.goto(stage.service.address);
    await card(page, 'What to do').waitFor();
    expect(new URL(page.url()).pathname).toBe('/sites/merrow');
    const tasks = await card(page, 'What to do')
      .getByRole('link')
      .evaluateAll((links) => links.map((link) => link.getAttribute('href')!));
    const pages = await page
      .getByRole('navigation', { name: 'Tasks' })
      .getByRole('link')
      .evaluateAll((links) => links.map((link) => link.getAttribute('href')!));
    expect([tasks.length, pages.length]).toEqual([10, 9]);
    // One that has nothing at its address would still say so, and time out.
    for (const address of [...tasks, ...pages]) {
      await go(page, address);
      await page.locator('h1').waitFor();
    }
    await page.close();
  });

  test('tries an address, and says what looks wrong with the way to it', async () => {
    const site = 'kleidon: 1\nsite: { name: W, address: https://w.example }\npages: { /: Home }\n';
    await stage.client.addSite(`${site}redirects: [{ from: /a, to: /gone }]\n`, 'watched');
    const page = await stage.look('/sites/watched');
    const finding = card(page, 'Findings').getByRole('link', { name: /\/gone/ });
    expect(await finding.getAttribute('href')).toBe('/sites/watched/file?line=4');
    await page.getByRole('textbox', { name: 'Address to try' }).fill('/crew');
    await page.keyboard.press('Enter');
    await page.waitForURL(/\/reach\/address\?address=%2Fcrew$/);
  });

  test.each(['', '/review', '/access/gates?name=crew-room'])(
    '%s can be used by everyone, at 640 pixels too',
    async (path) => {
      const page = await stage.look(path);
      await page.locator('h1').waitFor();
      expect(await barriersAtAllWidths(page)).toEqual([]);
    },
  );
});

describe('from an edit to live', () => {
  test('it is one way: the form, the review, saved and released with a note', async () => {
    const page = await stage.look('/addresses/redirects?new=yes');
    const form = page.getByRole('form', { name: /^Fields of/ });
    await form.getByLabel('From', { exact: true }).fill('/one-way');
    await form.getByLabel('To', { exact: true }).fill('/about');
    await page.getByRole('button', { name: 'Add to pending changes' }).click();
    await page.getByRole('link', { name: '1 pending change', exact: true }).click();
    await page.getByText('Redirect is added: from /one-way; to /about').waitFor();
    await page.getByRole('textbox', { name: 'Note: why' }).fill('Renamed');
    await page.getByRole('button', { name: 'Save and release' }).click();
    await page.getByRole('status').getByText('Release 1 is live.').waitFor();
    expect(await stage.client.site('merrow')).toMatchObject({
      draft: { version: 2, isLive: true },
      live: { number: 1, note: 'Renamed' },
    });
    expect(await isSeen(page.getByRole('link', { name: 'Release 1 is live' }))).toBe(true);
  });
});

describe('what breaks a guarantee', () => {
  test('is told in the form, is released only with a reason, and the visit that shows it is a click away', async () => {
    const before = await stage.client.draft('merrow');
    const page = await stage.look('/access/guarantees');
    await page.getByText('guests must never reach /crew and all beneath it').waitFor();
    expect(await page.getByText('Proved for every visitor, at').count()).toBe(5);
    await go(page, '/sites/merrow/access/gates?name=crew-room');
    const form = page.getByRole('form', { name: /^Fields of/ });
    await form.getByRole('textbox', { name: 'Admits', exact: true }).fill('anyone');
    const effect = page.getByRole('complementary', { name: 'Effect on the grid' });
    await effect.getByText('Broken guarantee #1').waitFor();
    await keep(page);
    await page.getByRole('link', { name: '1 pending change', exact: true }).click();
    const broken = page.getByRole('region', { name: 'Broken guarantees' });
    await broken.getByText('guests must never reach /crew and all beneath it').waitFor();
    const release = page.getByRole('button', { name: 'Save and release' });
    expect(await release.isDisabled()).toBe(true);
    expect(await barriersInBothThemes(page)).toEqual([]);
    await broken.getByRole('link', { name: 'See this visit' }).click();
    const result = page.getByRole('region', { name: 'What happens' });
    await result.getByText('sees the page').waitFor();
    await page.goBack();
    await broken.getByRole('textbox').fill('An open day');
    await page.getByRole('textbox', { name: 'Note: why' }).fill('Open');
    await release.click();
    await page
      .getByRole('status')
      .getByText(/Release \d+ is live\./)
      .waitFor();
    const [last] = await stage.client.releases('merrow');
    expect(last!.override).toBe('An open day');
    const { version } = await stage.client.draft('merrow');
    await stage.client.saveDraft('merrow', version, before.text);
  });
});

test('a guarantee is given in a form, and proved before it is saved', async () => {
  const page = await stage.look('/access/guarantees?new=yes');
  const form = page.getByRole('form', { name: 'Fields of the guarantee' });
  await form.getByRole('combobox', { name: 'Never' }).click();
  expect(await page.getByRole('complementary', { name: 'Effect on the grid' }).count()).toBe(0);
  await page.locator('.ant-select-item-option', { hasText: 'change' }).click();
  await form.getByRole('textbox', { name: 'Who', exact: true }).fill('guest');
  await keep(page);
  await page.getByText('guests must never change any page').waitFor();
  await page.getByRole('link', { name: '1 pending change', exact: true }).click();
  await page.getByRole('button', { name: 'Save to the draft' }).click();
  await page.getByText(/Saved as version \d+ of the draft/).waitFor();
  expect((await stage.client.draft('merrow')).text).toContain('- { never: change, who: guest }');
});

describe('releases', () => {
  const base = '/sites/back';
  beforeAll(async () => {
    const site = `kleidon: 1
site: { name: Back, address: https://back.example }
roles: { r: R }
pages: { /: Home, /a: A }
`;
    await stage.client.addSite(site, 'back');
    await stage.client.release('back', 1, 'First');
    await stage.client.saveDraft('back', 1, `${site}gates: { g: { at: /a, admit: role r } }\n`);
  });

  test('what goes live is told for every visitor, and opens in both states', async () => {
    const page = await stage.look(`${base}/review`);
    const goesLive = page.getByRole('region', { name: 'What goes live' });
    await goesLive.getByText('everyone, except anyone with the role r').waitFor();
    expect(await barriersInBothThemes(page)).toEqual([]);
    await goesLive.getByRole('link', { name: 'after' }).first().click();
    await page.getByRole('region', { name: 'What happens' }).getByText('is turned away').waitFor();
    await page.goBack();
    await goesLive.getByRole('link', { name: 'before' }).first().click();
    await page.getByRole('region', { name: 'What happens' }).getByText('sees the page').waitFor();
  });

  test('one is set for a time, and cancelled', async () => {
    const page = await stage.look(`${base}/review`);
    await page.getByRole('textbox', { name: 'Note: why' }).fill('Closed for r');
    await page.getByRole('textbox', { name: /^When/ }).fill('2077-03-01');
    await page.getByRole('button', { name: 'Schedule draft 2' }).click();
    const scheduled = page.getByRole('region', { name: 'Scheduled release' });
    await scheduled.getByText(/version 2 of the draft is released on .*2077/).waitFor();
    await scheduled.getByRole('button', { name: 'Cancel this release' }).click();
    await page.getByText('The scheduled release is cancelled.').waitFor();
    expect(await stage.client.scheduledRelease('back')).toBeNull();
  });

  test('an earlier one is restored after a look at what that changes', async () => {
    await stage.client.release('back', 2, 'Closed');
    const page = await stage.look(`${base}/releases`);
    await page.getByText('gate g added: −1 page for everyone, except').waitFor();
    expect(await barriersInBothThemes(page)).toEqual([]);
    await page.getByRole('link', { name: 'Restore release 1' }).click();
    await page.getByText('everyone, except anyone with the role r').waitFor();
    expect(await barriersInBothThemes(page)).toEqual([]);
    await page.getByRole('button', { name: 'Make release 1 live again' }).click();
    await page.getByRole('status').getByText('Release 3 is live: release 1 again.').waitFor();
    expect((await stage.client.releases('back'))[0]).toMatchObject({ number: 3, restores: 1 });
  });

  test('an earlier version of the draft is compared, and restored', async () => {
    const page = await stage.look(`${base}/releases/history`);
    await page.getByText('Gate g: at /a; admit role r').waitFor();
    expect(await barriersInBothThemes(page)).toEqual([]);
    await page.getByRole('link', { name: 'Compare the draft with version 1' }).click();
    await page.getByText('everyone, except anyone with the role r').waitFor();
    await page.goBack();
    await page.getByRole('button', { name: 'Restore version 1' }).click();
    await page.getByRole('status').getByText('Version 1 is restored, as version 3.').waitFor();
  });
});

test('the focus is never lost: it goes where something opens, and back when that goes away', async () => {
  const page = await stage.look('/pages');
  const isAt = (wanted: string) =>
    page.waitForFunction((name) => {
      const focused = document.activeElement!;
      const label = (focused as HTMLInputElement).labels?.[0];
      return (focused.ariaLabel ?? (label ?? focused).textContent).startsWith(name);
    }, wanted);
  const press = async (role: 'button' | 'link', name: string): Promise<void> => {
    await page.getByRole(role, { name, exact: true }).focus();
    await page.keyboard.press('Enter');
  };
  await press('button', 'Open page /about');
  await isAt('Page /about');
  await press('button', 'Close');
  await isAt('Open page /about');
  await page.keyboard.press('Control+k');
  await isAt('Search this site');
  await page.keyboard.press('Escape');
  await isAt('Open page /about');
  await press('button', 'New page');
  await isAt('Address');
  await page.keyboard.type('/nests');
  await press('button', 'Add to pending changes');
  await isAt('New page');
  await press('link', '1 pending change');
  await press('button', 'Drop all');
  await isAt('Review');
  await page.getByText('No pending changes.').waitFor();
  await go(page, '/sites/merrow');
  await press('link', 'Redirect an old address');
  await isAt('From');
  await page.goBack();
  await isAt('Merrow Point Bird Observatory');
});

test('at 640 and 320 pixels, and so at 200 and 400 %, tables scroll with the keyboard, and nothing else to the side', async () => {
  const barred: Record<string, string[]> = {};
  for (const path of [
    ...['/reach', '/reach/kinds', '/reach/list', '/reach/expected', '/pages', '/access/roles'],
    ...['/addresses/redirects', '/addresses/lists', '/visitors/products', '/visitors/purchases'],
    ...['/visitors/buyers', '/visitors/events', '/releases', '/file/settings', '/file/deletion'],
  ]) {
    const page = await stage.look(path);
    const own = (barred[path] = []) as string[];
    for (const width of [640, 320]) {
      await page.setViewportSize({ width, height: 800 });
      own.push(...(await barriers(page, ['scrollable-region-focusable', 'target-size'])));
      const widest = await page.evaluate(() =>
        Math.max(
          ...[document.documentElement, document.querySelector('main')!].map(
            (one) => one.scrollWidth,
          ),
        ),
      );
      if (widest > width) own.push(`it is ${widest} pixels wide at ${width}`);
    }
    await page.setViewportSize({ width: 1280, height: 800 });
  }
  expect(Object.entries(barred).filter(([, barriers]) => barriers.length > 0)).toEqual([]);
});

describe('the search', () => {
  test('opens with Ctrl-K everywhere, and goes to what is chosen', async () => {
    const page = await stage.look('/live');
    await page.locator('h1').waitFor();
    await page.keyboard.press('Control+k');
    const field = page.getByRole('combobox', { name: 'Search this site' });
    await field.waitFor();
    await page.waitForFunction(() => document.activeElement?.ariaLabel === 'Search this site');
    await page.keyboard.type('crew-room');
    await page.locator('.ant-select-item-option', { hasText: 'crew-room' }).waitFor();
    await page.keyboard.press('Enter');
    await page.waitForURL(/\/access\/gates\?name=crew-room$/);
  });

  test('keeps what is typed before it has loaded', async () => {
    const page = await stage.open('/live');
    await page.locator('h1').waitFor();
    let load = (): void => {};
    const mayLoad = new Promise<void>((resolve) => (load = resolve));
    await page.route(/search-dialog/, async (route) => {
      await mayLoad;
      await route.continue();
    });
    const isAsked = page.waitForRequest(/search-dialog/);
    await page.keyboard.press('Control+k');
    await isAsked;
    await page.keyboard.type('crew-');
    load();
    await page.waitForFunction(() => document.activeElement?.ariaLabel === 'Search this site');
    await page.keyboard.type('room');
    await page.locator('.ant-select-item-option', { hasText: 'crew-room' }).waitFor();
    expect(await page.getByRole('combobox', { name: 'Search this site' }).inputValue()).toBe(
      'crew-room',
    );
    await page.close();
  });
});
