import { go, setStage, type Stage } from './browser.ts';

/** How often each field is typed into; 20 outside the suite. */
const TIMES = Number(process.env['KLEIDON_TYPING'] ?? 1);
const DELAYS = TIMES === 1 ? [30] : [30, 60, 150];
const TEXT = 'the hide at dusk';

let stage: Stage;
beforeAll(async () => {
  stage = await setStage();
});
afterAll(() => stage.close());

test.each([
  ['/pages', 'Search pages', 'text'],
  ['/reach', 'Search pages', 'text'],
  ['/reach/address', 'Address', 'address'],
  ['/access/gates', 'Search gates', 'text'],
  ['/addresses/redirects', 'Search redirects', 'text'],
  ['/releases/compare', 'Only at this address', 'page'],
  ['/reach?text=', 'At', 'at'],
])('on %s, the field "%s" takes each key', async (path, label, name) => {
  const page = await stage.look(path);
  const session = await page.context().newCDPSession(page);
  await session.send('Emulation.setCPUThrottlingRate', { rate: 4 });
  const text = name === 'at' ? '2027-03-01 10:00' : TEXT;
  const field = page.getByRole('textbox', { name: label, exact: true });
  for (let time = 0; time < TIMES; time++)
    for (const delay of DELAYS) {
      await field.fill('');
      await field.pressSequentially(text, { delay });
      expect([delay, await field.inputValue()]).toEqual([delay, text]);
      await page.waitForFunction(
        ([key, value]) => new URLSearchParams(location.search).get(key!) === value,
        [name, text],
      );
      expect([delay, await field.inputValue()]).toEqual([delay, text]);
    }
  await session.detach();
});

test('the history and other filters change the field, and keep what was typed', async () => {
  const page = await stage.look('/reach');
  const field = page.getByRole('textbox', { name: 'Search pages' });
  await field.pressSequentially('hide');
  // The choice comes before the typed text is in the address.
  await page.getByRole('checkbox').first().click();
  await page.waitForFunction(() => location.search.includes('text=hide'));
  expect(new URL(page.url()).searchParams.get('differ')).toBe('yes');
  await go(page, '/sites/merrow/reach?text=permit');
  await page.waitForFunction(
    (input) => (input as unknown as { value: string }).value === 'permit',
    await field.elementHandle(),
  );
});
