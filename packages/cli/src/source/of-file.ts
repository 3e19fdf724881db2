import { decisions, type model, queries, siteFiles } from '@kleidon/core';
import { EXIT, SiteHasErrors, Stop } from '../exit.ts';
import { listsBeside, type SiteText } from '../lists.ts';
import { printErrors } from '../output/check.ts';
import { showProgress } from '../output/progress.ts';
import { readText } from '../read-text.ts';
import type { About, Source } from './source.ts';

/** Characters of a site file that takes a while to read. */
const LARGE = 500_000;

/** Reads and prepares a site file, or ends the command with its errors. */
export function preparedFrom({ text, name, listOf }: SiteText): decisions.PreparedSite {
  const progress = showProgress();
  if (text.length > LARGE) progress.say(`Reading ${name} …`);
  const read = siteFiles.readSite(text, name, listOf);
  progress.end();
  if (read.ok) return decisions.prepareSite(read.site);
  const errors = queries.explainErrors(read.errors);
  throw new SiteHasErrors(errors, printErrors(errors));
}

/** Answers from a site file on this machine. */
export function fromFile(file: string): Source {
  let read: decisions.PreparedSite | null = null;
  const prepared = (): decisions.PreparedSite =>
    (read ??= preparedFrom({ text: readText(file), name: file, listOf: listsBeside(file) }));
  const asking = ({ as, visitor, at }: About): [decisions.PreparedSite, model.Visitor, number] => {
    const site = prepared();
    return [
      site,
      queries.chooseVisitor(site, { as: as ?? '', visitor }),
      queries.readMoment(at, site.site.timeZone, Date.now()),
    ];
  };
  return {
    home: () => {
      const { protocol, host } = prepared().site;
      return Promise.resolve(`${protocol}//${host}`);
    },
    check: () => {
      const read = siteFiles.readSite(readText(file), file, listsBeside(file));
      if (!read.ok)
        return Promise.resolve({
          errors: queries.explainErrors(read.errors),
          findings: [],
          guarantees: [],
          visits: [],
        });
      const [site, at] = [decisions.prepareSite(read.site), Date.now()];
      return Promise.resolve({
        errors: [],
        findings: queries.inspect(site, file, at),
        guarantees: queries.guaranteeList(site, at),
        visits: queries.expectedVisits(site, at),
      });
    },
    whoReaches: ({ address, right, at }) => {
      const site = prepared();
      const found = queries.whoReaches(
        site,
        address,
        queries.readMoment(at, site.site.timeZone, Date.now()),
        right,
      );
      if (!found) throw new Stop(EXIT.wrongUse, `No page of the site is at ${address}.`);
      return Promise.resolve(found);
    },
    reachedBy: (about) => {
      const [site, visitor, at] = asking(about);
      return Promise.resolve(queries.reachedBy(site, visitor, at));
    },
    landing: (about, after, from) => {
      const [site, visitor, at] = asking(about);
      return Promise.resolve(
        queries.explainLanding(site, decisions.landing(site, after, visitor, from ?? null, at)),
      );
    },
    visible: (about, links) => {
      const [site, visitor, at] = asking(about);
      return Promise.resolve(decisions.visibleTo(site, visitor, links, at));
    },
    visit: ({ address, method = 'GET', ...about }) => {
      const [site, visitor, at] = asking(about);
      return Promise.resolve(
        queries.explainVisit(site, decisions.visit(site, { method, address }, visitor, at)),
      );
    },
    suggestPages: (address, as, at) => {
      const site = prepared();
      return Promise.resolve(
        queries.suggestPages(
          site,
          address,
          queries.findVisitor(site, as),
          queries.readMoment(at, site.site.timeZone, Date.now()),
        ),
      );
    },
    visitList: (addresses, as, at) => {
      const site = prepared();
      const visitors = as?.map((name) => queries.findVisitor(site, name)) ?? site.site.visitors;
      return Promise.resolve(
        decisions.visitList(
          site,
          addresses,
          visitors,
          queries.readMoment(at, site.site.timeZone, Date.now()),
        ),
      );
    },
    grid: ({ under, visitors, outcomes, kinds, at }) => {
      const site = prepared();
      const moment = queries.readMoment(at, site.site.timeZone, Date.now());
      if (!kinds) visitors?.forEach((name) => queries.findVisitor(site, name));
      const asked = kinds ? queries.kindVisitors(site, moment, under) : site.site.visitors;
      return Promise.resolve(
        decisions.grid(site, asked, moment, {
          under: queries.readSection(site, under),
          visitors,
          outcomes,
          families: true,
        }),
      );
    },
    pages: () => Promise.resolve(queries.pageList(prepared(), Date.now())),
    kinds: ({ under, at }) => {
      const site = prepared();
      const moment = queries.readMoment(at, site.site.timeZone, Date.now());
      return Promise.resolve(queries.kindList(site, moment, under));
    },
  };
}
