import type { Page } from 'playwright-core';
import { barriers, go, isSeen, setStage, type Stage } from './browser.ts';

let stage: Stage;
beforeAll(async () => {
  stage = await setStage();
});
afterAll(() => stage.close());

const rows = async (page: Page): Promise<string[]> =>
  (await page.locator('tbody tr.ant-table-row td:nth-child(2)').allTextContents()).map((text) =>
    text.trim(),
  );
const status = (page: Page) => page.getByRole('search').getByRole('status');
const effect = (page: Page) => page.getByRole('complementary', { name: 'Effect on the grid' });
const waiting = async (page: Page): Promise<void> => {
  await page.getByRole('link', { name: /pending changes?$/ }).waitFor();
};
const saved = async (page: Page): Promise<string> => {
  await page.getByRole('link', { name: /pending changes?$/ }).click();
  await page.getByRole('button', { name: 'Save to the draft' }).click();
  await page.getByText(/Saved as version \d+ of the draft/).waitFor();
  return (await stage.client.draft('merrow')).text;
};
const choose = async (page: Page, label: string, option: string): Promise<void> => {
  await page.getByRole('combobox', { name: label, exact: true }).click();
  await page.locator('.ant-select-item-option', { hasText: option }).last().click();
};

describe('redirects', () => {
  test('are searched, filtered and sorted, all of it in the address', async () => {
    const page = await stage.look('/addresses');
    await page.getByText('15 redirects.').waitFor();
    expect(page.url()).toMatch(/\/addresses\/redirects$/);
    await page.getByRole('textbox', { name: 'Search redirects' }).fill('hide');
    await page.getByText('2 of 15 redirects.').waitFor();
    await page.getByRole('textbox', { name: 'Search redirects' }).fill('');
    await choose(page, 'Kind', 'temporary');
    await page.getByText('7 of 15 redirects.').waitFor();
    await page.getByRole('columnheader', { name: 'To' }).click();
    await page.waitForURL(/order=to/);
    await page.reload();
    await page.getByText('7 of 15 redirects.').waitFor();
    expect((await rows(page)).slice(0, 3)).toEqual(['/latest', '/crew-news', '/crew-news']);
    expect(await barriers(page)).toEqual([]);
  });

  test('one that is typed shows at once where it leads, and a chain is shortened with one click', async () => {
    const page = await stage.look('/addresses/redirects?new=yes');
    const form = page.getByRole('form', { name: /^Fields of/ });
    await form.getByRole('textbox', { name: 'From', exact: true }).fill('/twitch');
    await form.getByRole('combobox', { name: 'To' }).fill('/latest');
    const chain = effect(page).getByRole('list', { name: 'Where /twitch leads' });
    await chain.getByText('by redirect /birds').waitFor();
    expect(await chain.getByRole('listitem').count()).toBe(4);
    await effect(page).getByText('Let it redirect to /sightings at once.').waitFor();
    await effect(page).getByRole('button', { name: 'Do that' }).click();
    await effect(page).getByText('Let it redirect').waitFor({ state: 'detached' });
    expect(await chain.getByRole('listitem').count()).toBe(2);
    await page.getByRole('button', { name: 'Add to pending changes' }).click();
    await waiting(page);
    expect(await saved(page)).toContain('  - { from: /twitch, to: /sightings }\n');
  });

  test('one that makes a chain of another offers to shorten that one, and both are kept', async () => {
    const { version } = await stage.client.draft('merrow');
    await stage.client.patchDraft('merrow', version, [
      { op: 'add', path: '/redirects/-', value: { from: '/start', to: '/middle' } },
    ]);
    const page = await stage.look('/addresses/redirects?new=yes');
    const form = page.getByRole('form', { name: /^Fields of/ });
    await form.getByRole('textbox', { name: 'From', exact: true }).fill('/middle');
    await form.getByRole('combobox', { name: 'To' }).fill('/about');
    const finding = effect(page)
      .getByRole('listitem')
      .filter({ hasText: '/start redirects to another' });
    await finding.getByRole('button', { name: 'Do that' }).click();
    await page.getByRole('link', { name: '2 pending changes' }).waitFor();
    const text = await saved(page);
    expect(text).toContain('  - { from: /start, to: /about }\n');
    expect(text).toContain('  - { from: /middle, to: /about }\n');
  });

  test('one that is there shows the way it leads', async () => {
    const page = await stage.look('/addresses/redirects?text=twitch');
    await page.getByRole('button', { name: 'Open the redirect from /twitch' }).click();
    expect(
      await isSeen(
        page.getByRole('region', { name: 'Where it redirects to' }).getByText('reach 200'),
      ),
    ).toBe(true);
  });

  test('several are changed at once, as one change', async () => {
    const page = await stage.look('/addresses/redirects?kind=temporary&text=crew');
    await page.getByText('2 of 18 redirects.').waitFor();
    await page.getByRole('button', { name: 'Select all 2' }).click();
    const bulk = page.getByRole('form', { name: 'Change the selected redirects' });
    await choose(page, 'Field to set', 'Note');
    await bulk.getByRole('textbox', { name: 'Value to set' }).fill('for the crew');
    await bulk.getByRole('button', { name: 'Set for 2' }).click();
    await status(page).getByText('A change of 2 redirects is pending.').waitFor();
    const text = await saved(page);
    expect(text).toContain('to: /crew, when: crew, note: for the crew } # only for some');
    expect(text).toContain('to: /journal, note: for the crew }');
  });

  test('are imported from a spreadsheet, every line told before it is kept', async () => {
    const page = await stage.look('/addresses/redirects');
    await page.getByRole('button', { name: 'Import' }).click();
    const panel = page.getByRole('complementary', { name: 'Import redirects' });
    await panel
      .getByRole('textbox')
      .fill(
        'target,old address,code\n/about,/who-we-are,301\n/visit,/open-day,302\n/x,no-slash,\n',
      );
    await panel.getByText('1 added, 1 changed, 0 there already, 1 refused.').waitFor();
    expect(await panel.getByRole('listitem').allTextContents()).toEqual([
      expect.stringMatching(/^line 2 \+ added/),
      expect.stringMatching(/^line 3 ~ changed/),
      expect.stringMatching(/^line 4 ! refused no-slash/),
    ]);
    expect(await barriers(page)).toEqual([]);
    await panel.getByRole('button', { name: 'Add 2 to pending changes' }).click();
    await waiting(page);
    expect(await saved(page)).toContain('  - { from: /who-we-are, to: /about, kind: permanent }\n');
  });

  test('that would go round, or are patterns, are told to be so before they are kept', async () => {
    const page = await stage.look('/addresses/redirects?import=yes');
    const panel = page.getByRole('complementary', { name: 'Import redirects' });
    await panel
      .getByRole('textbox')
      .fill('from,to\n/round-a,/round-b\n/round-b,/round-a\n/x/:y,/about\n');
    expect(await isSeen(panel.getByText('Taken as patterns, all others literally: /x/:y.'))).toBe(
      true,
    );
    const brings = panel.getByRole('list', { name: 'What it would bring' });
    expect(await isSeen(brings.getByText(/\/round-a/))).toBe(true);
  });

  test('thousands come in a list, which says where it is wrong; they are in the table too', async () => {
    const page = await stage.look('/addresses/lists');
    await page.getByText('There is no list beside the site file.').waitFor();
    const put = (text: string): Promise<void> =>
      page.getByLabel('A CSV file of redirects').setInputFiles({
        name: 'old.csv',
        mimeType: 'text/csv',
        buffer: Buffer.from(text),
      });
    await put('from,to\n/a,/about\nwrong,/about\n');
    await page.getByText('It has 1 error; line 3: "wrong" is no address of this site.').waitFor();
    await page.getByRole('cell', { name: 'yes', exact: true }).waitFor();
    const many = Array.from({ length: 20_000 }, (_, i) => `/old-${i},/about`);
    await put(['from,to', ...many].join('\n'));
    await page.getByText('old.csv is there.', { exact: true }).waitFor();
    await page.getByRole('link', { name: 'old.csv' }).click();
    await page.getByText('20000 of 20019 redirects.').waitFor();
    expect((await rows(page))[0]).toBe('/old-0');
    await page.getByRole('listitem', { name: '200', exact: true }).click();
    await page.getByRole('button', { name: 'Open the redirect from /old-19999' }).click();
    await page.getByRole('link', { name: 'In old.csv, line 20001' }).waitFor();
    await go(page, '/sites/merrow/addresses/lists');
    await page.getByRole('button', { name: 'Read it no more' }).click();
    await page.getByText('no, so it is not read').waitFor();
    await page.getByRole('button', { name: 'Take away' }).click();
    await page.getByText('old.csv is gone.').waitFor();
  });
});

test('a rewrite is written in its form, and shows what it is served from', async () => {
  const page = await stage.look('/addresses/rewrites?new=yes');
  const form = page.getByRole('form', { name: /^Fields of/ });
  await form.getByRole('textbox', { name: 'From', exact: true }).fill('/volunteers/:name');
  await form.getByRole('combobox', { name: 'Served from' }).fill('/activity');
  await form.getByRole('checkbox', { name: 'What is served redirects here' }).check();
  await effect(page).getByText("This rewrite can't be turned round").waitFor();
  await form.getByRole('combobox', { name: 'Served from' }).fill('/activity?volunteer=:name');
  expect(await isSeen(effect(page).getByText('/activity?volunteer=name'))).toBe(true);
});

test('a page shows all its addresses, and another of them becomes the primary one by a click', async () => {
  const page = await stage.look('/pages?page=/crew/rota');
  const all = page.getByRole('region', { name: 'All its addresses' });
  await all.getByText('/CREW/ROTA').first().waitFor();
  expect(await all.getByRole('listitem').first().textContent()).toContain('primary address');
  await all.getByRole('button', { name: 'Make primary: /rota' }).click();
  await waiting(page);
  const text = await saved(page);
  expect(text).toContain(
    '/rota: { title: Rota, refresh: 60s, aliases: [ /who-is-on, /crew/rota ] }',
  );
  expect(text).toContain('    at: /rota\n');
  const { final } = await stage.client.visit('merrow', { address: '/crew/rota', as: 'wren' });
  expect(final).toBe('/rota');
});

test('a not-found rule shows what a visitor sees, with the pages close by', async () => {
  const page = await stage.look('/addresses/not-found?name=1');
  const preview = page.getByRole('region', { name: 'What a visitor sees' });
  await preview.getByText('Shown: the page').waitFor();
  await preview.getByRole('textbox', { name: 'Asks for' }).fill('/sightngs');
  await preview.getByRole('link', { name: 'Recent sightings' }).waitFor();
  expect(await preview.getByText('missing 404').count()).toBe(1);
  await page.getByRole('button', { name: 'Open not-found rule 2' }).click();
  await preview.getByText('There is no lesson no-such-page; the course has twelve.').waitFor();
  expect(await barriers(page)).toEqual([]);
});
