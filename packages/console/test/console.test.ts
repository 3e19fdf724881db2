import { readFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { SAMPLE } from '../../service/test/running.ts';
import { barriers, barriersInBothThemes, go, isSeen, setStage, type Stage } from './browser.ts';

const sample = readFileSync(SAMPLE, 'utf8');
let stage: Stage;
beforeAll(async () => {
  stage = await setStage();
});
afterAll(() => stage.close());

const cell = (page: Page, name: string) => page.getByRole('gridcell', { name });
const addressOf = (page: Page) => new URL(page.url());

describe('the reach grid', () => {
  test('agrees with the API in every cell that is in view', async () => {
    const page = await stage.look('/reach');
    await cell(page, 'Gale, /crew: sign in').waitFor();
    const { rows, visitors } = await stage.client.grid('merrow');
    const shown = await page
      .getByRole('gridcell')
      .evaluateAll((cells) => cells.map((one) => one.getAttribute('title')!));
    expect(shown.length).toBeGreaterThan(200);
    const expected = new Set(
      rows.flatMap(({ address, cells }) =>
        visitors.map(({ name, title }) => {
          const { status, final, hops } = cells[name]!;
          const after = hops === 0 ? '' : `, after ${hops} redirect${hops === 1 ? '' : 's'}`;
          return `${title}, ${address}|${status} at ${final}${after}`;
        }),
      ),
    );
    for (const title of shown) {
      const [who, , end] = title.split('\n');
      expect(expected).toContain(`${who}|${end}`);
    }
  });

  test('says what makes each visitor who they are, and how much they reach', async () => {
    const page = await stage.look('/reach');
    const head = page.getByRole('columnheader', { name: /^Petra/ });
    expect(await head.textContent()).toContain('hide-permit until 2027-05-01');
    const { rows } = await stage.client.grid('merrow');
    const reached = rows.filter(({ cells }) => cells['petra']!.outcome === 'reach').length;
    expect(await head.textContent()).toContain(`${reached} of ${rows.length}`);
  });

  test('opens a visit beside it, with its reasons and the way to the rule', async () => {
    const page = await stage.look('/reach');
    await cell(page, 'Gale, /crew/rota: sign in').click();
    const visit = page.getByRole('complementary', { name: 'Visit' });
    await visit.getByText('asked to sign in').first().waitFor();
    expect(await visit.textContent()).toContain('Final address/sign-in?return=%2Fcrew%2Frota');
    await visit.getByRole('link', { name: /^gate crew-room in the site file/ }).click();
    await page.locator('.cm-activeLine', { hasText: 'crew-room:' }).waitFor();
    await page.goBack();
    await visit.waitFor();
    await visit.getByRole('button', { name: 'Close the visit' }).click();
    await visit.waitFor({ state: 'detached' });
  });

  /** Waits until the grid names a cell as the active one. */
  const active = (page: Page, label: string) =>
    page.waitForFunction((wanted) => {
      const id = document.activeElement?.getAttribute('aria-activedescendant');
      const cell = id && document.getElementById(id);
      return (
        cell && (cell.getAttribute('aria-label') ?? cell.getAttribute('title'))?.startsWith(wanted)
      );
    }, label);

  test('is worked with the keyboard alone, however quickly', async () => {
    const page = await stage.look('/reach?page=/crew&visitor=gale');
    await cell(page, 'Gale, /crew: sign in').waitFor();
    await page.getByRole('treegrid').focus();
    for (const key of ['ArrowDown', 'ArrowDown', 'ArrowRight', 'ArrowRight'])
      await page.keyboard.press(key);
    await active(page, 'Vik, /crew/hide-keys');
    await page.keyboard.press('Enter');
    await page
      .getByRole('complementary', { name: 'Visit' })
      .getByText('The page is shown.')
      .waitFor();
    expect(addressOf(page).searchParams.get('visitor')).toBe('vik');
    await page.keyboard.press('Home');
    await active(page, '/crew/hide-keys: ');
    await page.keyboard.press('PageUp');
    await page.keyboard.press('End');
    await active(page, 'Ada, /: ');
    for (let i = 0; i < 60; i++) await page.keyboard.press('ArrowDown');
    await active(page, 'Ada, /visit/hides/south: ');
  });

  test('folds sections, with the mouse and with the keyboard', async () => {
    const page = await stage.look('/reach?page=/crew');
    const rota = page.getByRole('rowheader', { name: '/rota' });
    await rota.waitFor();
    const crew = page.getByRole('rowheader', { name: '/crew Crew room' });
    await page.getByRole('treegrid').focus();
    await page.keyboard.press('ArrowLeft');
    await rota.waitFor({ state: 'detached' });
    expect(addressOf(page).searchParams.getAll('folded')).toEqual(['/crew']);
    await crew.click();
    await rota.waitFor();
  });

  test('filters by text, section and outcome, all of it in the address', async () => {
    const page = await stage.look('/reach?outcome=loop');
    await page.getByText('2 of 52 pages').waitFor();
    await page.getByRole('button', { name: 'Clear' }).click();
    await page.getByText('52 of 52 pages').waitFor();
    await page.getByRole('textbox', { name: 'Search pages' }).fill('minutes');
    await page.getByText('3 of 52 pages').waitFor();
    expect(addressOf(page).searchParams.get('text')).toBe('minutes');
    await page.reload();
    await page.getByText('3 of 52 pages').waitFor();
    await page.getByRole('textbox', { name: 'Search pages' }).fill('no such page');
    await page.getByText('No page fits these filters.').waitFor();
    await go(page, '/sites/merrow/reach?under=/permit');
    await page.getByText('3 of 52 pages').waitFor();
  });

  test('is drawn for the kinds of visitors that the rules tell apart', async () => {
    const page = await stage.look('/reach/kinds?under=/crew');
    await page.getByText('6 kinds').waitFor();
    expect(await barriersInBothThemes(page)).toEqual([]);
    await page.getByRole('link', { name: 'See them in the grid' }).click();
    await page.getByText('7 of 7 pages').waitFor();
    await cell(page, 'volunteer, /crew/rota/swaps: reach').waitFor();
    await cell(page, 'volunteer, in spring-count, /crew/rota/swaps: block').click();
    await page.getByText('Someone of this kind asks for').waitFor();
    await page.getByText('Those who count this spring do not swap.').waitFor();
  });

  test('is drawn for any moment, written as ISO 8601 has it', async () => {
    const page = await stage.look('/reach?at=2027-04-01T10:00&text=spring');
    expect(await isSeen(cell(page, 'Gale, /spring-count: reach'))).toBe(true);
    const at = page.getByRole('textbox', { name: 'At', exact: true });
    await at.fill('2026-11-27 10:00');
    await cell(page, 'Gale, /spring-count: missing').waitFor();
    // What is no moment is asked for by nobody, and told at its field.
    await at.fill('2027-02-30');
    await at.press('Tab');
    const told = page.getByRole('alert').filter({ hasText: 'Write it as 2027-03-01' });
    await told.waitFor();
    expect(await at.getAttribute('aria-describedby')).toContain(await told.getAttribute('id'));
    expect(addressOf(page).searchParams.get('at')).toBe('2026-11-27 10:00');
    await page.getByRole('button', { name: 'Clear' }).click();
    await page.getByText('52 of 52 pages').waitFor();
    expect([await at.inputValue(), await told.count()]).toEqual(['', 0]);
  });

  test('draws only what is in view, whatever its size', async () => {
    const visitors = Array.from({ length: 50 }, (_, i) => `  v${i}: {}\n`).join('');
    const pages = Array.from(
      { length: 10_000 },
      (_, i) => `  /s${i % 100}/p${i}: Page ${i}\n`,
    ).join('');
    await stage.client.addSite(
      `kleidon: 1\nsite: { name: Big, address: https://big.example }\npages:\n${pages}visitors:\n${visitors}`,
      'big',
    );
    const page = await stage.look('/sites/big/reach');
    await cell(page, 'V0, /s0/p0').waitFor();
    expect(await page.getByRole('gridcell').count()).toBeLessThan(1200);
    await page.getByRole('treegrid').focus();
    await page.keyboard.press('End');
    await active(page, 'V49, /s0/p0');
  });
});

describe('the pages', () => {
  test('are listed with their gates and who reaches each, in words', async () => {
    const page = await stage.look('/pages');
    await page.getByText('52 of 52 pages').waitFor();
    await page.getByRole('textbox', { name: 'Search pages' }).fill('hide permit while');
    await page.getByText('3 of 52 pages').waitFor();
    const row = page.getByRole('row', { name: /map\.pdf/ });
    expect(await row.textContent()).toContain('│ permit-area');
    await page.getByText('Besides, by full access: anyone with the role administrator.').waitFor();
    await row.getByRole('button', { name: 'Open page /permit/map.pdf' }).click();
    await page.getByRole('link', { name: /^In the site file, line/ }).click();
    await page.locator('.cm-activeLine', { hasText: '/permit/map.pdf' }).waitFor();
  });
});

describe('trying an address', () => {
  test('as any visitor, as someone made up, and at any time', async () => {
    const page = await stage.look('/reach/address?address=/permit&as=lars');
    const result = page.getByRole('region', { name: 'What happens' });
    await result.getByText('offered Hide permit').waitFor();
    await page.getByRole('textbox', { name: 'At' }).fill('2026-01-01T00:00');
    await result.getByText('sees the page').waitFor();
    await go(page, '/sites/merrow/reach/address?address=/crew&as=someone');
    await result.getByText('is turned away').waitFor();
    await page.getByRole('combobox', { name: 'Roles' }).click();
    await page.getByTitle('ringer: Licensed to ring birds').click();
    await result.getByText('sees the page').waitFor();
    expect(addressOf(page).searchParams.getAll('role')).toEqual(['ringer']);
    await page.reload();
    await result.getByText('sees the page').waitFor();
    const name = page.getByRole('textbox', { name: 'Name, to keep them as a visitor' });
    await name.fill('rhoda');
    await page.getByText('There is a visitor rhoda.').waitFor();
    await name.fill('finn');
    await page.getByRole('button', { name: 'Add to pending changes' }).click();
    await page.getByRole('link', { name: 'a column of the grid' }).click();
    await cell(page, 'finn, /crew: reach').waitFor();
    expect(await page.getByRole('columnheader').allInnerTexts()).toEqual([
      'Page',
      expect.stringMatching(/^finn\s+ringer/i),
    ]);
    await page.goBack();
    await page.getByRole('radio', { name: 'A guest' }).click();
    await result.getByText('is asked to sign in').waitFor();
    await page.getByRole('button', { name: 'Expect this outcome' }).click();
    await page.getByRole('link', { name: 'expected visits' }).click();
    await page.getByText('GET /crew by Guest (guest)').waitFor();
    expect(await page.getByText('It ends as').count()).toBe(4);
  });

  test('from a pasted list, for one visitor or for all', async () => {
    const page = await stage.look('/reach/list?as=vik');
    await page
      .getByRole('textbox', { name: 'Addresses, one a line, or a server’s access log' })
      .fill('/latest\n/Rota.html\n\n/nothing');
    await page.getByRole('button', { name: 'Try them' }).click();
    const ends = page.getByRole('region', { name: 'Where they end' });
    await ends.getByRole('cell', { name: '/crew/rota' }).waitFor();
    await page.getByText('3 visits').waitFor();
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Download CSV' }).click();
    const stream = await (await download).createReadStream();
    let csv = '';
    for await (const chunk of stream) csv += String(chunk);
    expect(csv).toContain('/Rota.html,vik,reach,200,/crew/rota,1\r\n');
    expect(await barriers(page)).toEqual([]);
  });

  test('that is ambiguous says why it is refused', async () => {
    const page = await stage.look('/reach/address?as=gale');
    await page.getByRole('textbox', { name: 'Address' }).fill('/crew%2Frota');
    expect(await isSeen(page.getByText('which is ambiguous'))).toBe(true);
  });
});

describe('the site file', () => {
  const editor = (page: Page) => page.getByRole('textbox', { name: 'Site file' });
  /** Types at the end of the file. */
  const type = async (page: Page, text: string): Promise<void> => {
    await editor(page).click();
    await page.keyboard.press('Control+End');
    await page.keyboard.insertText(text);
  };
  const add = async (id: string) => {
    await stage.client.addSite(sample, id);
    return async () => {
      const page = await stage.look(`/sites/${id}/file`);
      await editor(page).waitFor();
      return page;
    };
  };

  test('shows errors at their lines while one types, and leads to each', async () => {
    const page = await (await add('typed'))();
    await page.getByText('Nothing looks wrong in this file.').waitFor();
    await type(page, '  joe: { rolls: [warden] }\n');
    const errors = page.getByRole('complementary', { name: 'Errors and findings' });
    await errors.getByText('"rolls" is not a field of a visitor. Did you mean "roles"?').waitFor();
    await page.locator('.cm-lint-marker-error').waitFor();
    expect(await page.getByRole('link', { name: 'Review and release' }).count()).toBe(0);
    await page.keyboard.press('Control+Home');
    await errors.getByRole('button', { name: /^Line/ }).click();
    await page.locator('.cm-activeLine', { hasText: 'rolls' }).waitFor();
  });

  test('completes fields, choices and names while one types, and tells what they are for', async () => {
    await add('completed');
    const page = await stage.look('/sites/completed/file?line=128');
    const options = page.getByRole('listbox').getByRole('option');
    const labels = (): Promise<string[]> => page.locator('.cm-completionLabel').allTextContents();
    await page.locator('.cm-activeLine').waitFor();
    await page.keyboard.press('ArrowUp');
    await page.keyboard.press('End');
    await page.keyboard.insertText('\n    ri');
    await page.keyboard.type('g');
    await options.filter({ hasText: 'right' }).waitFor();
    // Keys that come right after a list opens are for the text, not for the list.
    await page.waitForFunction(
      (opened) => performance.now() > opened + 150,
      await page.evaluate(() => performance.now()),
    );
    await page.keyboard.press('ArrowDown');
    await page.getByText('Right. One of view, change. Default: view.').waitFor();
    await page.keyboard.press('Enter');
    await page.keyboard.press('Control+Space');
    await options.filter({ hasText: 'change' }).waitFor();
    expect(await labels()).toEqual(['change', 'view']);
    await page.keyboard.press('Escape');
    await page.keyboard.insertText('view\n    admit: role wa');
    await page.keyboard.type('r');
    await options.filter({ hasText: 'warden' }).waitFor();
    expect(await labels()).toContain('warden');
    await page.keyboard.press('Escape');
    // What was looked up already is hidden again when the answer about the text comes: it is awaited.
    const isChecked = page.waitForResponse(
      (response) => response.request().postData()?.includes('Ayr') === true,
    );
    await page.keyboard.insertText(' and visitor.town != "Ayr"');
    await isChecked;
    await page.locator('.cm-lint-marker-error').waitFor();
    const [x, y] = await page.evaluate<[number, number]>(`(() => {
      const texts = document.createTreeWalker(document.querySelector('.cm-activeLine'), 4);
      while (texts.nextNode() && !texts.currentNode.data.includes('!='));
      const at = texts.currentNode.data.indexOf('!=');
      const range = document.createRange();
      range.setStart(texts.currentNode, at);
      range.setEnd(texts.currentNode, at + 2);
      const { left, right, top, bottom } = range.getBoundingClientRect();
      return [(left + right) / 2, (top + bottom) / 2];
    })()`);
    // Another check may come back at any moment, and hides the help again: whoever reads points once more.
    const isShown = (text: string): Promise<boolean> =>
      page
        .getByText(text)
        .waitFor({ timeout: 1000 })
        .then(
          () => true,
          () => false,
        );
    do {
      await page.mouse.move(x - 3, y);
      await page.mouse.move(x, y, { steps: 3 });
    } while (!(await isShown('The values are not the same')));
    do {
      await page.mouse.move(x, y);
      await page.getByText('otherwise', { exact: true }).first().hover();
    } while (!(await isShown('Everyone else, the first entry that fits.')));
  });

  test('is saved and released, and the grid follows', async () => {
    const page = await (await add('worked-on'))();
    await type(page, '  zoe: { roles: [trustee] }\n');
    await page.keyboard.press('Control+s');
    await page.getByText('Saved as version 2.').waitFor();
    expect((await stage.client.draft('worked-on')).text).toContain('zoe');
    await page.getByRole('link', { name: 'Review and release' }).click();
    await page.getByRole('textbox', { name: 'Note: why' }).fill('Zoe joins');
    await page.getByRole('button', { name: 'Release draft 2' }).click();
    await page.getByRole('status').getByText('Release 1 is live.').waitFor();
    expect(await stage.client.releases('worked-on')).toMatchObject([
      { number: 1, note: 'Zoe joins' },
    ]);
    await page.getByRole('link', { name: 'Reach', exact: true }).click();
    await page.getByText('52 of 52 pages').waitFor();
    await go(page, '/sites/worked-on/reach?state=1&text=/trustees');
    await page.getByText('3 of 52 pages').waitFor();
    await page.getByRole('link', { name: 'Site file' }).click();
    await page.getByText('A release never changes; edit the draft.').waitFor();
    expect(await editor(page).getAttribute('aria-readonly')).toBe('true');
  });

  test('that someone else saved first is not overwritten, and nothing typed is lost', async () => {
    const page = await (await add('two-editors'))();
    await type(page, '# mine\n');
    await stage.client.saveDraft('two-editors', 1, `${sample}# theirs\n`);
    await page.getByRole('button', { name: 'Save' }).click();
    await page.getByText('Someone saved version 2 while you were typing.').waitFor();
    expect(await page.getByRole('textbox', { name: 'Their version' }).textContent()).toContain(
      '# theirs',
    );
    expect(await page.getByRole('textbox', { name: 'Your version' }).textContent()).toContain(
      '# mine',
    );
    expect((await stage.client.draft('two-editors')).text).toBe(`${sample}# theirs\n`);
    expect(await barriers(page)).toEqual([]);
    await page.getByRole('button', { name: 'Go on with the right side' }).click();
    await page.getByRole('button', { name: 'Save' }).click();
    await page.getByText('Saved as version 3.').waitFor();
    expect((await stage.client.draft('two-editors')).text).toBe(`${sample}# mine\n`);
  });

  test('what was typed and not saved survives a reload', async () => {
    const page = await (await add('unsaved'))();
    await type(page, '# kept\n');
    await page.getByText('changed and not saved').waitFor();
    await page.reload();
    await page.getByText('What you had typed and not saved is back.').first().waitFor();
    await page.getByRole('button', { name: 'Save' }).click();
    await page.getByText('Saved as version 2.').waitFor();
    expect((await stage.client.draft('unsaved')).text).toBe(`${sample}# kept\n`);
  });

  test('a finding is fixed with one click, and the rest of the file is left alone', async () => {
    const text = sample.replace('until: 2027-06-01 # and only', 'until: 2026-06-01 # and only');
    await stage.client.addSite(text, 'fixed');
    const page = await stage.look(`/sites/fixed/file`);
    const found = page.getByRole('listitem').filter({ hasText: 'gate swaps ended on 2026-06-01' });
    await found.getByRole('button', { name: 'Fix it' }).click();
    await page.getByText('Fixed, and saved as version 2.').waitFor();
    const fixed = (await stage.client.draft('fixed')).text;
    expect(fixed).not.toContain('  swaps:\n');
    expect(fixed.split('\n').length).toBe(text.split('\n').length - 6);
  });

  test('with errors says so on every page that needs it, with the way to each', async () => {
    const bad = 'kleidon: 1\nsite: { name: Bad }\npages: { /: { titel: x } }\n';
    await stage.client.addSite(bad, 'bad');
    const overview = await stage.look('/sites/bad');
    const first = overview.getByRole('region', { name: 'Guarantees and findings' });
    await first.getByRole('link', { name: 'Line 3' }).waitFor();
    // What is not YAML has no gates that could be listed, which is not to say that the site had none.
    await stage.client.addSite(`${bad}gates: [\n`, 'not-yaml');
    const gates = await stage.look('/sites/not-yaml/access/gates');
    await gates.getByText('This is not YAML').waitFor();
    expect(await gates.getByText('has no gate').count()).toBe(0);
    const page = await stage.look(`/sites/bad/reach`);
    await page.getByText('The site file has 2 errors').waitFor();
    await page.getByRole('link', { name: 'Line 3' }).click();
    expect(await isSeen(page.locator('.cm-activeLine', { hasText: 'titel' }))).toBe(true);
  });
});

describe('every page', () => {
  test('loads what it needs and no more: the first one at most 250 kB, compressed', async () => {
    const page = await stage.open('/reach');
    await cell(page, 'Gale, /crew: sign in').waitFor();
    const loaded = await page.evaluate(() =>
      (performance.getEntriesByType('resource') as PerformanceResourceTiming[])
        .filter(({ name }) => name.includes('/assets/'))
        .map(({ name, encodedBodySize }) => [name.replace(/.*\//, ''), encodedBodySize] as const),
    );
    expect(loaded.length).toBeGreaterThan(3);
    const bytes = loaded.reduce((sum, [, size]) => sum + size, 0);
    if (bytes > 250_000) throw new Error(`${bytes} bytes: ${JSON.stringify(loaded)}`);
    await page.close();
  });

  test('whose code is gone says so, and the console stays usable', async () => {
    const page = await stage.open('/reach');
    await cell(page, 'Gale, /crew: sign in').waitFor();
    await page.route('**/assets/live-page*', (route) => route.fulfill({ status: 404 }));
    await page.getByRole('link', { name: 'Live', exact: true }).click();
    await page.getByText("This page of the console can't be shown.").waitFor();
    expect(await page.getByRole('button', { name: 'Load the console again' }).isVisible()).toBe(
      true,
    );
    await page.getByRole('link', { name: 'Reach', exact: true }).click();
    await cell(page, 'Gale, /crew: sign in').waitFor();
    await page.close();
  });

  test.each([
    '/reach?under=/staff',
    '/reach?under=/crew&page=/crew/rota&visitor=gale&visit=open',
    '/pages',
    '/pages?page=/crew/rota',
    '/addresses/redirects?name=%231',
    '/addresses/lists',
    '/addresses/rewrites?name=1',
    '/reach/address?address=/crew&as=someone',
    '/file',
  ])('%s has no barrier of WCAG 2.2 AA, in light and in dark', async (path) => {
    const page = await stage.look(path);
    expect(await barriersInBothThemes(page)).toEqual([]);
  });

  test('that is not there has none either', async () => {
    const page = await stage.look('/nowhere');
    await page.getByRole('heading', { name: 'There is nothing at this address' }).waitFor();
    expect(await barriersInBothThemes(page)).toEqual([]);
  });

  test('says what to do when the service has gone, and goes on when it is back', async () => {
    const page = await stage.look('/reach');
    await page.getByText('52 of 52 pages').waitFor();
    await page.route('**/api/**', (route) => route.abort());
    await page.reload();
    await page.getByText("can't be reached").waitFor();
    await page.unroute('**/api/**');
    await page.getByRole('button', { name: 'Try again' }).click();
    expect(await isSeen(page.getByText('52 of 52 pages'))).toBe(true);
  });

  test('a site that is not there is said to be so', async () => {
    const page = await stage.open('/sites/none');
    expect(await isSeen(page.getByText('There is no site "none".'))).toBe(true);
    await page.close();
  });
});
