import { parentPort } from 'node:worker_threads';
import { decisions, queries, siteFiles } from '@kleidon/core';
import { findAll } from './states.ts';
import { READY, type Checked, type NotPatched, type ToCheck } from './checker.ts';

/** Checks site files in a thread of its own: one that takes too long can be given up. */
parentPort!.on('message', (file: ToCheck) => parentPort!.postMessage(checked(file)));

const NOTHING = { findings: [], guarantees: [], visits: [] };

function checked({ text: before, patch, lists, file, at }: ToCheck): Checked | NotPatched {
  let text = before;
  try {
    text = siteFiles.patchSite(before, patch);
  } catch (error) {
    if (!(error instanceof siteFiles.PatchProblem)) throw error;
    return { operation: error.operation, message: error.message };
  }
  const known = new Map(lists);
  const result = siteFiles.readSite(text, file, (name) => known.get(name) ?? null);
  if (!result.ok)
    return { text, name: null, errors: queries.explainErrors(result.errors), ...NOTHING };
  const found = findAll(decisions.prepareSite(result.site), file, at);
  return { text, name: result.site.name, errors: [], ...found };
}

// Loaded: the time of the first check begins here.
parentPort!.postMessage(READY);
