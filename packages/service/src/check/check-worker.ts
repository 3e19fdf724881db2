import { parentPort } from 'node:worker_threads';
import { inspect, prepareSite, readSite } from '@kleidon/core';
import { READY, type Checked, type ToCheck } from './checker.ts';

/** Checks site files in a thread of its own: one that takes too long can be given up. */
parentPort!.on('message', ({ text, lists, file, at }: ToCheck) => {
  const known = new Map(lists);
  const result = readSite(text, file, (name) => known.get(name) ?? null);
  const checked: Checked = result.ok
    ? { name: result.site.name, errors: [], findings: inspect(prepareSite(result.site), file, at) }
    : { name: null, errors: result.errors, findings: [] };
  parentPort!.postMessage(checked);
});

// Loaded: the time of the first check begins here.
parentPort!.postMessage(READY);
