import { Parser } from 'htmlparser2';

/** How a page marks a block as a part, and a list of links as a menu. */
export const MARK = 'data-kleidon-';
const PART = `${MARK}part`;
const MENU = `${MARK}menu`;

/** What of a marked page its visitor sees. */
export interface MarkSight {
  part(name: string): boolean;
  /** Whether a menu shows only the links that its visitor can use. */
  onlyUsable(menu: string): boolean;
  link(href: string): boolean;
}

/** Rewrites a page as it streams through. */
export interface Rewriting {
  /** Takes the next bytes, and gives those of the answer that are certain by now. */
  write(chunk: Buffer): Buffer;
  end(): Buffer;
}

interface Region {
  readonly start: number;
  end: number;
}

/** An entry of a menu, which goes with its only link. */
interface Entry extends Region {
  readonly depth: number;
  hasMore: boolean;
  lost: number;
}

/**
 * Takes parts that are not for the visitor, and links of menus that they can't use, out of an HTML page
 * (HTML Living Standard); every other byte stays. A menu entry (`li`) with nothing but such a link goes
 * with it. Bytes are read one by one as characters, as tags and the names of attributes are the same in
 * every encoding that browsers take for HTML but UTF-16.
 */
export function rewriteMarks(sees: MarkSight): Rewriting {
  let held = '';
  /** The offset in the page of the first character held. */
  let base = 0;
  /** The offset up to which every tag has been read whole. */
  let read = 0;
  let depth = 0;
  /** What is taken out, in order; the last one may still be open. */
  let cuts: Region[] = [];
  let cut: (Region & { readonly depth: number }) | null = null;
  const menus: number[] = [];
  let entry: Entry | null = null;

  const open = (start: number): void => {
    cut = { start, end: Infinity, depth };
    cuts.push(cut);
  };
  /** Regions whose end tag is not here whole yet, and where its name ends. */
  let ending: { readonly region: Region; readonly from: number }[] = [];
  const endAt = (region: Region, from: number): void => {
    const found = held.indexOf('>', from - base);
    if (found >= 0) region.end = base + found + 1;
    else ending.push({ region, from });
  };
  const endTags = (): void => {
    const waiting = ending;
    ending = [];
    for (const { region, from } of waiting) endAt(region, from);
  };

  const isRead = (): void => {
    read = parser.endIndex + 1;
  };
  const parser = new Parser(
    {
      oncomment: isRead,
      onprocessinginstruction: isRead,
      onopentag: (name, attributes) => {
        isRead();
        depth++;
        if (cut) return;
        const part = attributes[PART];
        if (part !== undefined && !sees.part(asText(part))) {
          open(parser.startIndex);
          return;
        }
        const menu = attributes[MENU];
        if (menu !== undefined && sees.onlyUsable(asText(menu))) menus.push(depth);
        if (menus.length === 0) return;
        if (name === 'li') {
          entry = { start: parser.startIndex, end: Infinity, depth, hasMore: false, lost: 0 };
          return;
        }
        const href = name === 'a' ? attributes['href'] : undefined;
        if (href !== undefined && !sees.link(asText(href))) {
          open(parser.startIndex);
          if (entry) entry.lost++;
        } else if (entry && (href !== undefined || MEANS_SOMETHING.has(name))) entry.hasMore = true;
      },
      ontext: (text) => {
        isRead();
        if (entry && !cut && text.trim() !== '') entry.hasMore = true;
      },
      onclosetag: (_, isImplied) => {
        if (!isImplied) isRead();
        // An end that is only implied stands before what implies it, but after a tag that is its own end.
        const isBefore = isImplied && cut?.start !== parser.startIndex;
        const end = (region: Region): void => {
          if (isBefore) region.end = parser.startIndex;
          else endAt(region, parser.endIndex);
        };
        if (cut?.depth === depth) {
          end(cut);
          cut = null;
        }
        if (entry?.depth === depth) {
          if (entry.lost > 0 && !entry.hasMore) {
            const { start } = entry;
            const whole = { start, end: Infinity };
            cuts = [...cuts.filter((one) => one.start < start), whole];
            end(whole);
          }
          entry = null;
        }
        if (menus.at(-1) === depth) menus.pop();
        depth--;
      },
    },
    { decodeEntities: true, lowerCaseTags: true },
  );

  /** Gives what is certain up to an offset, without what is taken out. */
  const giveTo = (limit: number): Buffer => {
    let given = '';
    let from = base;
    for (const { start, end } of cuts) {
      if (start >= limit) break;
      given += held.slice(from - base, Math.max(start, from) - base);
      from = Math.max(from, Math.min(end, limit));
    }
    given += held.slice(from - base, Math.max(limit, from) - base);
    cuts = cuts.filter(({ end }) => end > limit);
    held = held.slice(limit - base);
    base = limit;
    return Buffer.from(given, 'latin1');
  };

  return {
    write: (chunk) => {
      const text = chunk.toString('latin1');
      held += text;
      endTags();
      parser.write(text);
      const waits = Math.min(entry?.start ?? Infinity, ...ending.map(({ region }) => region.start));
      return giveTo(Math.max(base, Math.min(read, waits)));
    },
    end: () => {
      parser.end();
      return giveTo(base + held.length);
    },
  };
}

/** An entry with one of these is more than its links. */
const MEANS_SOMETHING: ReadonlySet<string> = new Set([
  ...['button', 'form', 'img', 'input', 'select', 'textarea', 'video', 'audio', 'iframe', 'svg'],
  ...['ul', 'ol', 'details'],
]);

/** Names and addresses are compared as text: UTF-8, as nearly all pages are. */
const asText = (value: string): string =>
  /^\p{ASCII}*$/u.test(value) ? value : Buffer.from(value, 'latin1').toString('utf8');
