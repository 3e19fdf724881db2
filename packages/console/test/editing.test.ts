import type { Locator, Page } from 'playwright-core';
import {
  barriers,
  barriersInBothThemes,
  go,
  isSeen,
  keep,
  setStage,
  type Stage,
} from './browser.ts';

let stage: Stage;
beforeAll(async () => {
  stage = await setStage();
});
afterAll(() => stage.close());

const form = (page: Page): Locator =>
  page.getByRole('form', { name: /^(Fields of|Settings of the site)/ });
const field = (page: Page, name: string): Locator =>
  form(page).getByRole('textbox', { name, exact: true });
const effect = (page: Page): Locator =>
  page.getByRole('complementary', { name: 'Effect on the grid' });
const choose = async (page: Page, control: Locator, option: string): Promise<void> => {
  await control.click();
  await page.locator('.ant-select-item-option', { hasText: option }).last().click();
};
const countPages = (pages: readonly { address: string }[]): number =>
  new Set(pages.map(({ address }) => address)).size;
const draft = async (): Promise<string> => (await stage.client.draft('merrow')).text;
const comments = (text: string): string[] => text.match(/#.*$/gm) ?? [];

/** Drops what a test left waiting; each window has a browser profile, and so changes, of its own. */
async function saveAll(page: Page): Promise<void> {
  await page.getByRole('link', { name: /pending changes?$/ }).click();
  await page.getByRole('button', { name: 'Save to the draft' }).click();
  await page.getByText(/Saved as version \d+ of the draft/).waitFor();
}

describe('a gate', () => {
  test('is typed or built from choices, each in step with the other, with its effect beside it', async () => {
    const page = await stage.look('/access/gates?name=crew-room');
    const admits = field(page, 'Admits');
    await admits.fill('role warden or role ringer');
    await form(page).getByText('That is: anyone with the role warden or ringer.').waitFor();
    const kinds = form(page).getByRole('combobox', { name: 'Which' });
    await effect(page).getByText('4 of 520 cells change.').waitFor();
    expect(
      await effect(page)
        .getByRole('list', { name: 'Cells that change' })
        .getByRole('listitem')
        .first()
        .textContent(),
    ).toMatch(/^\/crew vik● reach 200 → × block 403$/);
    expect(await kinds.count()).toBe(2);
    await choose(page, kinds.nth(1), 'volunteer');
    // At once, before the text of the first choice has come back.
    await form(page).getByRole('button', { name: 'Add a choice' }).click();
    await form(page)
      .getByText(/anyone signed in/)
      .waitFor();
    expect(await admits.inputValue()).toBe('role warden or role volunteer or signed-in');
    await admits.fill('role wardn');
    await form(page).getByText('No role is called "wardn". Did you mean "warden"?').waitFor();
    expect(await form(page).getByRole('group', { name: 'Admits, from choices' }).count()).toBe(0);
  });

  test('that is new is kept with others, and its effect is on the pages it stands at', async () => {
    const page = await stage.look('/access/gates');
    await page.getByRole('button', { name: 'New gate' }).click();
    await field(page, 'Name').fill('tides');
    const at = form(page).getByRole('combobox', { name: 'At', exact: true });
    await at.fill('/tides');
    await at.press('Enter');
    await at.press('Escape');
    await field(page, 'Admits').fill('signed-in');
    await effect(page).getByText('1 of 520 cells changes.').waitFor();
    await keep(page);
    await page.getByRole('button', { name: 'Open gate tides' }).waitFor();
    await saveAll(page);
    expect(await draft()).toContain('\n  tides: { at: /tides, admit: signed-in }\n');
  });
});

describe('pending changes', () => {
  test('are listed, survive a reload, are dropped one by one, and are saved as one', async () => {
    const before = await stage.client.draft('merrow');
    const page = await stage.look('/access/audiences?name=crew');
    await field(page, 'Name').fill('helpers');
    await effect(page).getByText('None of 520 cells changes.').waitFor();
    await keep(page);
    await go(page, '/sites/merrow/pages?page=/about');
    await field(page, 'Title').fill('Who we are');
    await keep(page);
    await go(page, '/sites/merrow/pages?page=/crew');
    await field(page, 'Address').fill('/team');
    await form(page)
      .getByRole('checkbox', { name: /beneath it move too/ })
      .waitFor();
    await effect(page).getByText('None of 520 cells changes.').waitFor();
    await effect(page)
      .getByText(/^Pages that move: \/crew → \/team,/)
      .waitFor();
    await keep(page);
    await page.reload();
    await page.getByRole('link', { name: '3 pending changes' }).click();
    const waiting = page.getByRole('list', { name: 'Changes' }).getByRole('listitem');
    await waiting.first().waitFor();
    expect(await waiting.locator('span').allTextContents()).toEqual(
      expect.arrayContaining([
        'Audience crew is called helpers, in every rule',
        'Page /about: Who we are',
        'Page /crew and what is beneath it move to /team, with a redirect',
      ]),
    );
    expect((await stage.client.draft('merrow')).version).toBe(before.version);
    await page.getByRole('button', { name: 'Drop: Page /about: Who we are' }).click();
    await page.getByText('Dropped: Page /about: Who we are.').waitFor();
    expect(await barriers(page)).toEqual([]);
    await page.getByRole('button', { name: 'Save to the draft' }).click();
    await page.getByText(`Saved as version ${before.version + 1} of the draft.`).waitFor();
    const text = await draft();
    expect(text).toContain('  helpers: role volunteer or role ringer or role warden\n');
    expect(text).toContain('    under: /team\n    admit: helpers\n');
    expect(text).toContain('from: /crew/*, to: /team/*, kind: permanent');
    expect(text).toContain('  /about: About us\n');
    expect(comments(text)).toEqual(comments(before.text));
    const { errors, findings } = await stage.client.check('merrow');
    expect([errors, findings]).toEqual([[], []]);
  });

  test('that can not be made any more are told, and everything else is saved', async () => {
    const page = await stage.look('/access/parts?name=latest-photos');
    await page.getByRole('button', { name: 'Remove part' }).click();
    await page.getByRole('link', { name: '1 pending change' }).waitFor();
    await go(page, '/sites/merrow/access/groups?new=yes');
    await field(page, 'Name').fill('nest-watch');
    await field(page, 'What it is for').fill('People who watch nests');
    await keep(page);
    const { version, text } = await stage.client.draft('merrow');
    await stage.client.saveDraft('merrow', version, text.replace(/ {2}latest-photos: .*\n/, ''));
    await go(page, '/sites/merrow/review');
    await page.getByText('There is no part "latest-photos" any more.').first().waitFor();
    await page.getByRole('button', { name: 'Save to the draft', disabled: true }).waitFor();
    await page.getByRole('button', { name: 'Drop: Part latest-photos is removed' }).click();
    await page.getByRole('button', { name: 'Save to the draft' }).click();
    await page.getByText(/Saved as version/).waitFor();
    expect(await draft()).toContain('  nest-watch: People who watch nests\n');
  });

  test('are seen in the grid and in a visit before they are saved', async () => {
    const page = await stage.look('/visitors?new=yes');
    await field(page, 'Name').fill('nia');
    await choose(page, form(page).getByRole('combobox', { name: 'Roles' }), 'warden');
    await page.keyboard.press('Escape');
    await effect(page).getByText('New visitors: nia').waitFor();
    await keep(page);
    await page.getByRole('link', { name: 'Reach', exact: true }).click();
    await page.getByRole('columnheader', { name: /^Nia/ }).waitFor();
    await page.getByRole('combobox', { name: 'State of the site' }).click();
    await page.locator('.ant-select-item-option', { hasText: 'Draft as saved' }).click();
    await page.getByRole('columnheader', { name: /^Nia/ }).waitFor({ state: 'detached' });
    await page.getByRole('link', { name: '1 pending change' }).click();
    await page.getByRole('button', { name: 'Drop all' }).click();
    expect(await isSeen(page.getByText('No pending changes.'))).toBe(true);
  });
});

describe('forms', () => {
  test('of a page: who reaches it, its gates, the settings of another', async () => {
    const page = await stage.look('/pages?page=/join');
    await page.getByRole('region', { name: 'Who reaches it' }).getByText('everyone').waitFor();
    const other = page.getByRole('combobox', { name: 'The other page' });
    await other.fill('/field-guide/waders');
    await other.press('Enter');
    await page.getByRole('button', { name: 'Copy', exact: true }).click();
    await page.getByText('The copied settings are pending.').waitFor();
    await go(page, '/sites/merrow/pages?page=/join');
    await page
      .getByRole('region', { name: 'Who reaches it' })
      .getByRole('link', { name: 'field-guide-chapters' })
      .click();
    await field(page, 'Name').waitFor();
    expect(await field(page, 'Name').inputValue()).toBe('field-guide-chapters');
  });

  test('of a new page, written short', async () => {
    const page = await stage.look('/pages');
    await page.getByRole('button', { name: 'New page' }).click();
    await field(page, 'Address').fill('/nests');
    await field(page, 'Title').fill('Nests');
    await effect(page).getByText('New pages: /nests').waitFor();
    await keep(page);
    await page.getByRole('button', { name: 'Open page /nests' }).waitFor();
    await saveAll(page);
    expect(await draft()).toContain('\n  /nests: Nests\n');
  });

  test('of a visitor: with what they reach, and where the rest leaves them', async () => {
    const page = await stage.look('/visitors?name=lars');
    const reached = page.getByRole('region', { name: 'What lars reaches' });
    await reached.getByRole('heading', { name: /^Reaches \d+ of \d+ pages$/ }).waitFor();
    const expected = await stage.client.reachedBy('merrow', { as: 'lars' });
    expect(await reached.getByRole('heading').textContent()).toBe(
      `Reaches ${countPages(expected.reached)} of ${countPages([...expected.reached, ...expected.others])} pages`,
    );
    expect(
      await reached.getByRole('listitem').filter({ hasText: '/permit' }).first().textContent(),
    ).toContain('block');
    await page.getByRole('button', { name: 'Add purchase' }).click();
    const second = page.getByRole('group', { name: 'purchase 2' });
    await choose(page, second.getByRole('combobox', { name: 'Product' }), 'song-course');
    await effect(page)
      .getByText(/\/song-course\/:lesson/)
      .waitFor();
    await keep(page);
    await saveAll(page);
    expect(await draft()).toMatch(/lars:.*product: song-course \}.*# it has run out\n/);
  });

  test('of the site: the starting position, and where people land', async () => {
    const page = await stage.look('/file/settings');
    await choose(
      page,
      form(page).getByRole('combobox', { name: 'Pages without a gate are' }),
      'closed',
    );
    await effect(page)
      .getByText(/\d+ of \d+ cells change\./)
      .waitFor();
    await keep(page);
    await page.getByRole('link', { name: 'Access' }).click();
    await page.getByRole('link', { name: 'Landings' }).click();
    await page.getByRole('button', { name: 'Open landing 3' }).click();
    await form(page).getByRole('combobox', { name: 'Go to' }).fill('/about');
    await keep(page);
    await page.getByRole('link', { name: '2 pending changes' }).click();
    await page.getByText('Site: ungated is closed').waitFor();
    expect(
      await isSeen(page.getByText('Landing becomes: after sign-out; who anyone; go /about')),
    ).toBe(true);
    await page.getByRole('button', { name: 'Drop all' }).click();
  });

  test('tell what is missing or wrong, each at its field, before a change is added', async () => {
    const page = await stage.look('/addresses/redirects?new=yes');
    const add = page.getByRole('button', { name: 'Add to pending changes' });
    const told = form(page).getByText(/ is missing\.$/);
    const isAdded = () => page.getByRole('link', { name: /pending changes?$/ }).count();
    const [from, to] = ['From', 'To'].map((title) => form(page).getByLabel(title, { exact: true }));
    await from!.waitFor();
    expect(await told.count()).toBe(0);
    expect(await effect(page).count()).toBe(0);
    await add.click();
    await form(page).getByText('From is missing.').waitFor();
    expect(await told.allTextContents()).toEqual(['From is missing.', 'To is missing.']);
    expect(await from!.getAttribute('aria-invalid')).toBe('true');
    await page.waitForFunction(() => document.activeElement?.ariaLabel === 'From');
    await from!.fill('/no:');
    await to!.fill('/about');
    expect(await told.count()).toBe(0);
    await add.click();
    await form(page).getByRole('alert').waitFor();
    expect(await isAdded()).toBe(0);
    await from!.fill('/no');
    // Whoever clicks twice adds one change.
    await add.dblclick();
    await page.getByRole('link', { name: '1 pending change', exact: true }).click();
    await page.getByText('Redirect is added: from /no; to /about').waitFor();
    expect(await page.getByRole('list', { name: 'Changes' }).getByRole('listitem').count()).toBe(1);
  });

  test('show what few entries have on demand, and at once where it is set', async () => {
    const page = await stage.look('/access/gates?name=crew-room');
    const [more, rank] = [form(page).getByText('More fields'), form(page).getByLabel('Rank')];
    await more.waitFor();
    expect(await rank.isVisible()).toBe(false);
    await more.press('Enter');
    await rank.waitFor();
    await go(page, '/sites/merrow/access/gates?name=swaps');
    await form(page).getByLabel('Until').waitFor();
  });

  test.each([
    ['/pages?page=/crew-only', 'Page /crew-only'],
    ['/access/gates?name=permit-area', 'Gate permit-area'],
    ['/visitors?name=petra', 'Visitor petra'],
    ['/visitors/products?name=hide-permit', 'Product hide-permit'],
    ['/access/audiences?new=yes', 'New audience'],
    ['/access/menus?name=main', 'Menu main'],
    ['/file/settings', null],
  ])('%s can be used by everyone, in light and in dark', async (path, panel) => {
    const page = await stage.look(path);
    await form(page).waitFor();
    if (panel !== null) await page.getByRole('complementary', { name: panel }).waitFor();
    expect(await barriersInBothThemes(page)).toEqual([]);
  });

  test('what is not there is said, with the way on', async () => {
    const page = await stage.look('/access/none');
    await page.getByText('There is nothing at this address').waitFor();
    await go(page, '/sites/merrow/access/gates?text=nothing-like-it');
    expect(await isSeen(page.getByText('No gate fits this search.'))).toBe(true);
  });
});
