import { parentPort } from 'node:worker_threads';
import { decisions, queries, siteFiles } from '@kleidon/core';
import { READY, type Checked, type NotPatched, type ToCheck } from './checker.ts';

/** Checks site files in a thread of its own: one that takes too long can be given up. */
parentPort!.on('message', (file: ToCheck) => parentPort!.postMessage(checked(file)));

const NOTHING = { findings: [], guarantees: [], visits: [] };

function checked({ text: given, patch, before, lists, file, at }: ToCheck): Checked | NotPatched {
  let text = given;
  try {
    text = siteFiles.patchSite(given, patch);
  } catch (error) {
    if (!(error instanceof siteFiles.PatchProblem)) throw error;
    return { operation: error.operation, message: error.message };
  }
  const says = before === null || before === text ? [] : siteFiles.changesBetween(before, text);
  const known = new Map(lists);
  const result = siteFiles.readSite(text, file, (name) => known.get(name) ?? null);
  if (!result.ok)
    return { text, name: null, errors: queries.explainErrors(result.errors), says, ...NOTHING };
  const site = decisions.prepareSite(result.site);
  return {
    text,
    name: result.site.name,
    errors: [],
    says,
    findings: queries.inspect(site, file, at),
    guarantees: queries.guaranteeList(site, at),
    visits: queries.expectedVisits(site, at),
  };
}

// Loaded: the time of the first check begins here.
parentPort!.postMessage(READY);
