/**
 * Writes the TypeScript types of the API's messages from its description, packages/api/openapi.yaml, and the
 * description as JSON, which is read in a twentieth of the time.
 */
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import openapiTS, { astToString } from 'openapi-typescript';
import ts from 'typescript';
import { parse } from 'yaml';

const FOLDER = fileURLToPath(new URL('../packages/api/', import.meta.url));
const DESCRIPTION = join(FOLDER, 'openapi.yaml');

/** A value that core defines, such as a condition, has core's own type. */
const typeOfCore = (name) => ts.factory.createTypeReferenceNode(name);

const text = readFileSync(DESCRIPTION, 'utf8');
const names = [...text.matchAll(/x-core-type: (\w+)\./g)];
const namespaces = [...new Set(names.map(([, namespace]) => namespace))].sort();
const types = await openapiTS(new URL(`file://${DESCRIPTION}`), {
  immutable: true,
  transform: (schema) =>
    schema['x-core-type'] === undefined ? undefined : typeOfCore(schema['x-core-type']),
});
const imports =
  namespaces.length > 0 ? `import type { ${namespaces.join(', ')} } from '@kleidon/core';\n\n` : '';
writeFileSync(
  join(FOLDER, 'src', 'generated.ts'),
  `// Written by scripts/api-types.mjs from openapi.yaml; change that.\n${imports}${astToString(types)}`,
);
mkdirSync(join(FOLDER, 'dist'), { recursive: true });
writeFileSync(join(FOLDER, 'dist', 'openapi.json'), JSON.stringify(parse(text)));
