import type { Page } from 'playwright-core';
import { go, isSeen, keep, setStage, type Stage } from './browser.ts';

/** What the console must not do to someone's work, however fast they are. */
let stage: Stage;
beforeAll(async () => {
  stage = await setStage();
});
afterAll(() => stage.close());

const SITE = (name: string) => `kleidon: 1
site: { name: ${name}, address: https://${name}.example }
roles: { keeper: K }
pages: { /: Home, /a: A, /b: B }
gates: { g: { at: /a, admit: signed-in } }
redirects:
  - { from: /one, to: /a }
  - { from: /two, to: /a }
  - { from: /three, to: /a }
visitors: { v: { roles: [keeper] } }
`;
const open = async (site: string, path: string): Promise<Page> => {
  await stage.client.addSite(SITE(site), site);
  return stage.look(`/sites/${site}${path}`);
};

test('a save that is under way is not begun again, and so is in nobody’s way', async () => {
  const page = await open('saved', '/file');
  const editor = page.getByRole('textbox', { name: 'Site file' });
  await editor.click();
  await page.keyboard.press('Control+End');
  await page.keyboard.insertText('# mine\n');
  // The answer is held back until the key was pressed twice.
  let go = (): void => undefined;
  const isPressed = new Promise<void>((resolve) => (go = resolve));
  let saves = 0;
  await page.route('**/draft', async (route) => {
    if (route.request().method() !== 'PUT') return route.continue();
    saves++;
    await isPressed;
    return route.continue();
  });
  await page.keyboard.press('Control+s');
  await page.keyboard.press('Control+s');
  go();
  expect(await isSeen(page.getByText('Saved as version 2.'))).toBe(true);
  expect(saves).toBe(1);
});

test('a field that is changed while a condition is read stays as it was changed', async () => {
  const page = await open('fields', '/access/gates?name=g');
  const form = page.getByRole('form', { name: /^Fields of/ });
  await form.getByText('That is: anyone signed in.').waitFor();
  let go = (): void => undefined;
  const isChanged = new Promise<void>((resolve) => (go = resolve));
  await page.route('**/conditions**', async (route) => {
    await isChanged;
    return route.continue();
  });
  await form.getByRole('combobox', { name: 'Is or is not' }).first().click();
  await page.locator('.ant-select-item-option', { hasText: 'is not' }).click();
  await form.getByText('More fields').click();
  await form.getByRole('checkbox', { name: 'The gate above must admit too' }).check();
  go();
  const admits = form.getByRole('textbox', { name: 'Admits', exact: true });
  await page.waitForFunction(
    (field) => (field as unknown as { value: string }).value === 'not signed-in',
    await admits.elementHandle(),
  );
  expect(
    await form.getByRole('checkbox', { name: 'The gate above must admit too' }).isChecked(),
  ).toBe(true);
});

test('redirects that are selected are those, whatever was changed meanwhile', async () => {
  const page = await open('bulk', '/addresses/redirects');
  await page.getByRole('checkbox', { name: 'Select the redirect from /two' }).check();
  await page.getByText('1 selected').waitFor();
  // Somebody else removes the one before it: what was the second is another one now.
  await stage.client.patchDraft('bulk', 1, [{ op: 'remove', path: '/redirects/0' }]);
  await page.getByText('/three', { exact: true }).click();
  await page.getByText('More fields').click();
  await page.getByRole('textbox', { name: 'Note' }).fill('kept');
  await page.getByRole('button', { name: 'Add to pending changes' }).click();
  await page.getByRole('link', { name: '1 pending change' }).waitFor();
  expect(await page.getByText('1 selected').count()).toBe(0);
});

test('a site is deleted by typing its name, and can be taken back', async () => {
  const page = await open('gone', '/file/deletion');
  const button = page.getByRole('button', { name: 'Delete this site' });
  expect(await button.isDisabled()).toBe(true);
  const field = page.getByRole('textbox', { name: /^Type gone/ });
  await field.fill('go');
  expect(await button.isDisabled()).toBe(true);
  await field.fill('gone');
  await button.click();
  await page.waitForURL(/\/sites\/(?!gone)/);
  expect((await stage.client.sites()).map(({ id }) => id)).not.toContain('gone');
  await go(page, '/sites/merrow/file/deletion');
  await page.getByRole('button', { name: 'Restore gone' }).click();
  await page.waitForURL('**/sites/gone');
  expect((await stage.client.sites()).map(({ id }) => id)).toContain('gone');
});

test('what is no page of the console is not there', async () => {
  const asked = async (path: string, accept: string) => {
    const { status, headers } = await fetch(stage.service.address + path, {
      headers: { Accept: accept },
    });
    return [status, headers.get('Content-Type')?.split(';')[0]];
  };
  expect(await asked('/metrics', '*/*')).toEqual([404, 'application/problem+json']);
  expect(await asked('/sites/merrow/none', 'text/html')).toEqual([404, 'text/html']);
  expect(await asked('/assets/none.js', '*/*')).toEqual([404, 'application/problem+json']);
  for (const path of [
    '/',
    '/sites/merrow',
    '/sites/merrow/access/menus',
    '/sites/merrow/reach/list',
  ])
    expect(await asked(path, 'text/html')).toEqual([200, 'text/html']);
});

test('the review of a first release has findings, expected visits and the end of each visit', async () => {
  const page = await open('first', '/file');
  const { version } = await stage.client.saveDraft(
    'first',
    1,
    `${SITE('first')}visits: [{ address: /b, as: v, outcome: block }]\n`.replace(
      'first.example }',
      'first.example, sign-in: /a }',
    ),
  );
  await go(page, '/sites/first/review');
  const finding = page.getByRole('link', { name: /nobody can sign in/ });
  expect([version, await finding.getAttribute('href')]).toEqual([
    2,
    expect.stringMatching(/^\/sites\/first\/file\?line=\d+$/),
  ]);
  await page.getByText('Expected visit #1').waitFor();
  const guest = page.getByRole('row', { name: /^V / });
  expect(await guest.getByRole('link', { name: '3' }).getAttribute('href')).toBe(
    '/sites/first/reach?state=draft&only=v&outcome=reach',
  );
  expect(await page.title()).toBe('Review · first · Kleidon');
});

test('a role needs only a name', async () => {
  const page = await open('named', '/access/roles?new=yes');
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('ringer');
  await keep(page);
  await page.getByRole('button', { name: 'ringer' }).waitFor();
});
