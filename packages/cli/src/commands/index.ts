import type { Command } from 'commander';

/** By task, in the order in which people come to each; the code of a command is loaded when it is asked for. */
const COMMANDS: Record<string, Record<string, () => Promise<(to: Command) => void>>> = {
  'See who reaches what:': {
    grid: async () => (await import('./grid.ts')).addGrid,
    'who-reaches': async () => (await import('./who-reaches.ts')).addWhoReaches,
    'reached-by': async () => (await import('./reached-by.ts')).addReachedBy,
    kinds: async () => (await import('./kinds.ts')).addKinds,
    landing: async () => (await import('./landing.ts')).addLanding,
    visible: async () => (await import('./visible.ts')).addVisible,
  },
  'Try addresses:': {
    visit: async () => (await import('./visit.ts')).addVisit,
    'visit-list': async () => (await import('./visit-list.ts')).addVisitList,
    suggest: async () => (await import('./suggest.ts')).addSuggest,
  },
  'Work on the site file:': {
    check: async () => (await import('./check.ts')).addCheck,
    verify: async () => (await import('./verify.ts')).addVerify,
    fix: async () => (await import('./fix.ts')).addFix,
    import: async () => (await import('./import.ts')).addImport,
    export: async () => (await import('./export.ts')).addExport,
    schema: async () => (await import('./schema.ts')).addSchema,
  },
  'Put it live:': {
    draft: async () => (await import('./draft.ts')).addDraft,
    lists: async () => (await import('./lists.ts')).addLists,
    compare: async () => (await import('./compare.ts')).addCompare,
    report: async () => (await import('./report.ts')).addReport,
    release: async () => (await import('./release.ts')).addRelease,
  },
  'Watch the website:': {
    live: async () => (await import('./live.ts')).addLive,
    probe: async () => (await import('./probe.ts')).addProbe,
    purchases: async () => (await import('./purchases.ts')).addPurchases,
    events: async () => (await import('./events.ts')).addEvents,
  },
  'Set up:': {
    serve: async () => (await import('./serve.ts')).addServe,
    sites: async () => (await import('./sites.ts')).addSites,
    completion: async () => (await import('./completion.ts')).addCompletion,
  },
};

/**
 * Adds the command that is asked for. Help, and the likely name in place of a wrong one, need all of them, and so
 * does the completion of a name; where the name is complete, that one is enough.
 * @param asked the arguments of the process
 */
export async function addCommands(program: Command, asked: readonly string[]): Promise<void> {
  const [name = '', inner, , typed = '', ...more] = asked;
  const isCompleting = name === 'completion' && inner === 'candidates';
  const wanted = isCompleting ? (more.length > 0 ? typed : '') : name;
  const isEnough = Object.values(COMMANDS).some((known) => Object.hasOwn(known, wanted));
  for (const [task, known] of Object.entries(COMMANDS)) {
    const loads = Object.entries(known).filter(
      ([one]) => !isEnough || one === wanted || one === name,
    );
    program.commandsGroup(task);
    for (const add of await Promise.all(loads.map(([, load]) => load()))) add(program);
  }
}
