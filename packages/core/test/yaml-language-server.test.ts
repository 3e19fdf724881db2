import { spawn, type ChildProcessWithoutNullStreams } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import {
  createMessageConnection,
  StreamMessageReader,
  StreamMessageWriter,
  type MessageConnection,
} from 'vscode-jsonrpc/node.js';
import { siteFiles } from '../src/index.ts';
import { sampleText } from './support.ts';

/** The part of the Language Server Protocol that an editor needs for completion, help and errors. */
interface Completion {
  readonly label: string;
}
interface Diagnostic {
  readonly message: string;
  readonly range: { readonly start: { readonly line: number; readonly character: number } };
}

const SERVER = fileURLToPath(
  new URL('../../../node_modules/yaml-language-server/bin/yaml-language-server', import.meta.url),
);
const folder = mkdtempSync(join(tmpdir(), 'kleidon-editor-'));
const schema = join(folder, 'schema.json');
writeFileSync(schema, JSON.stringify(siteFiles.siteFileSchema()));

const settings = {
  yaml: {
    schemas: { [pathToFileURL(schema).href]: '*.site.yaml' },
    schemaStore: { enable: false },
    completion: true,
    hover: true,
    validate: true,
  },
};

let server: ChildProcessWithoutNullStreams;
let connection: MessageConnection;
const told = new Map<string, (found: readonly Diagnostic[]) => void>();

beforeAll(async () => {
  server = spawn(process.execPath, [SERVER, '--stdio']);
  connection = createMessageConnection(
    new StreamMessageReader(server.stdout),
    new StreamMessageWriter(server.stdin),
  );
  connection.onRequest('workspace/configuration', ({ items }: { items: { section: string }[] }) =>
    items.map(({ section }) => (section === 'yaml' ? settings.yaml : null)),
  );
  connection.onRequest('client/registerCapability', () => null);
  connection.onNotification(
    'textDocument/publishDiagnostics',
    ({ uri, diagnostics }: { uri: string; diagnostics: Diagnostic[] }) =>
      told.get(uri)?.(diagnostics),
  );
  connection.listen();
  await connection.sendRequest('initialize', {
    processId: process.pid,
    rootUri: pathToFileURL(folder).href,
    capabilities: {
      textDocument: { completion: {}, hover: {}, publishDiagnostics: {} },
      workspace: { configuration: true },
    },
  });
  await connection.sendNotification('initialized', {});
  await connection.sendNotification('workspace/didChangeConfiguration', { settings });
});

afterAll(async () => {
  await connection.sendRequest('shutdown');
  await connection.sendNotification('exit');
  connection.dispose();
  server.kill();
  rmSync(folder, { recursive: true });
});

/** Opens a text in the editor; gives its address, and what the server finds wrong with it. */
async function open(name: string, text: string) {
  const uri = pathToFileURL(join(folder, `${name}.site.yaml`)).href;
  const found = new Promise<readonly Diagnostic[]>((resolve) => told.set(uri, resolve));
  await connection.sendNotification('textDocument/didOpen', {
    textDocument: { uri, languageId: 'yaml', version: 1, text },
  });
  return { uri, found: await found };
}

/** Opens a text, and asks about the place of the bar in it. */
async function ask(name: string, method: string, marked: string) {
  const before = marked.slice(0, marked.indexOf('|')).split('\n');
  const position = { line: before.length - 1, character: before.at(-1)!.length };
  const { uri } = await open(name, marked.replace('|', ''));
  return connection.sendRequest(`textDocument/${method}`, { textDocument: { uri }, position });
}

const HEAD = 'kleidon: 1\nsite: { name: A, address: https://a.example }\n';

describe('a YAML language server with the JSON Schema', () => {
  test('finds nothing wrong in the sample', async () => {
    expect((await open('sample', sampleText())).found).toEqual([]);
  });

  test('marks an unknown field, a wrong choice and a missing field at their places', async () => {
    const text = `${HEAD}gates:\n  g:\n    under: /a\n    admit: guest\n    rigth: view\nredirects:\n  - from: /a\n    kind: forever\n`;
    const { found } = await open('wrong', text);
    expect(
      found.map(({ message, range: { start } }) => [start.line + 1, start.character + 1, message]),
    ).toEqual(
      expect.arrayContaining([
        [7, 5, expect.stringContaining('rigth')],
        [9, 5, expect.stringContaining('"to"')],
        [10, 11, expect.stringContaining('"permanent", "temporary"')],
      ]),
    );
    expect(found).toHaveLength(3);
  });

  test.each([
    ['sections', `${HEAD}|`, ['gates', 'redirects', 'visitors']],
    ['fields', `${HEAD}gates:\n  g:\n    under: /a\n    |`, ['admit', 'otherwise', 'right']],
    ['choices', `${HEAD}gates:\n  g:\n    under: /a\n    right: |`, ['change', 'view']],
  ])('completes %s', async (name, text, wanted) => {
    const { items } = (await ask(name, 'completion', text)) as { items: readonly Completion[] };
    const labels = items.map(({ label }) => label);
    expect(labels).toEqual(expect.arrayContaining(wanted));
  });

  test('tells what a field is for', async () => {
    const text = `${HEAD}gates:\n  g:\n    under: /a\n    nar|rows: yes\n    admit: guest\n`;
    const help = await ask('help', 'hover', text);
    expect(JSON.stringify(help)).toContain('The gate above must admit too');
  });
});
