import { description, validate, type Parameter } from './described.ts';
import { run, temporaryFolder, type Running } from './running.ts';

interface Content {
  readonly schema: object;
  readonly example?: unknown;
}
/** Calls whose answers are documents of their own, which nobody reads as an example. */
const WITHOUT = ['siteFileSchema', 'describe', 'gatewayKeys'];

const calls = Object.entries(description.paths).flatMap(([path, methods]) =>
  Object.entries(methods).map(([method, operation]) => ({ path, method, ...operation })),
);

const pointerTo = (...steps: string[]): string =>
  steps
    .map((step) => `/${encodeURIComponent(step.replace(/~/g, '~0').replace(/\//g, '~1'))}`)
    .join('');

describe('the description of the API', () => {
  test('has no text that a comma cuts in two', () => {
    // In YAML, a comma ends a text without quotes that stands in braces.
    const cut: string[] = [];
    JSON.stringify(description, (key, value: unknown) => {
      if (/[a-z] [a-z].*\.$/i.test(key)) cut.push(key);
      return value;
    });
    expect(cut).toEqual([]);
  });

  test.each(calls.map((call) => [call.operationId, call] as const))(
    '%s has examples, which are as it describes',
    (name, { path, method, parameters = [], requestBody, responses }) => {
      const examples: [pointer: string, value: unknown][] = [];
      const add = (content: Record<string, Content> | undefined, ...steps: string[]): void => {
        for (const [type, { example }] of Object.entries(content ?? {}))
          if (example !== undefined)
            examples.push([
              pointerTo('paths', path, method, ...steps, 'content', type, 'schema'),
              example,
            ]);
      };
      if (requestBody && !requestBody.$ref) {
        add(requestBody.content, 'requestBody');
        expect(examples).not.toEqual([]);
      }
      const asked = examples.length;
      const status = Object.keys(responses).find((one) => one.startsWith('2'))!;
      const { content } = responses[status]!;
      add(content, 'responses', status);
      if (content && !WITHOUT.includes(name)) expect(examples.length).toBeGreaterThan(asked);
      for (const [pointer, value] of examples) validate(`openapi#${pointer}`, value);
      for (const parameter of parameters.map(resolved))
        if (parameter.required) expect(parameter).toHaveProperty('example');
    },
  );

  describe('can be read at /api/', () => {
    const folder = temporaryFolder();
    let service: Running;
    beforeAll(async () => {
      service = await run(folder.path);
    });
    afterAll(async () => {
      await service.end();
      folder.remove();
    });

    test('where everything that the page needs is on the service', async () => {
      const moved = await fetch(`${service.address}/api`, { redirect: 'manual' });
      expect([moved.status, moved.headers.get('Location')]).toEqual([301, '/api/']);
      const page = await (await fetch(`${service.address}/api/`)).text();
      const parts = [...page.matchAll(/(?:src|href)="(\/[^"]+)"/g)].map(([, address]) => address!);
      expect(parts).toHaveLength(3);
      for (const address of parts) {
        const answer = await fetch(service.address + address);
        expect([address, answer.status]).toEqual([address, 200]);
        expect((await answer.text()).length).toBeGreaterThan(50);
      }
    });
  });
});

const resolved = (parameter: Parameter): Parameter =>
  parameter.$ref === undefined
    ? parameter
    : description.components.parameters[parameter.$ref.split('/').at(-1)!]!;
