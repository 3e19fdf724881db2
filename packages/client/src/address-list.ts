/** An address of a list, and how often it was asked for where the list is an access log. */
export interface ListedAddress {
  readonly address: string;
  readonly times: number | null;
}

/** Takes a list line by line: addresses, the first column of a table, or a server's access log. */
export interface AddressList {
  add(line: string): void;
  /** The addresses in their order; those of an access log by how often they were asked for, the most first. */
  addresses(): ListedAddress[];
}

/** NCSA Common Log Format, with or without what the Combined Log Format has behind it. */
const LOG_LINE =
  /^\S+ \S+ .*?\[\d{1,2}\/\w{3}\/\d{4}:[^\]]*\] "(?:([A-Z]+) (\S+)(?: HTTP\/[\d.]+)?|[^"]*)" (?:\d{3}|-) (?:\d+|-)/;
const TABLE_LINE = /^\s*(?:"([^"]*)"|([^,\t]*))/;

export function addressList(): AddressList {
  const plain: string[] = [];
  const counts = new Map<string, number>();
  let isLog: boolean | null = null;
  const addRequest = ([, method, target]: RegExpExecArray): void => {
    // What changes something can't be asked for again, and what is no address is noise.
    const isView = method === 'GET' || method === 'HEAD';
    if (!isView || target === undefined || !/^(?:\/|https?:\/\/)/i.test(target)) return;
    const address = target.replace(/#.*$/, '');
    counts.set(address, (counts.get(address) ?? 0) + 1);
  };
  return {
    add: (line) => {
      if (line.trim() === '') return;
      const logged = isLog === false ? null : LOG_LINE.exec(line);
      isLog ??= logged !== null;
      if (logged) addRequest(logged);
      else if (!isLog) {
        const [, quoted, bare = ''] = TABLE_LINE.exec(line)!;
        const address = (quoted ?? bare).trim();
        if (address !== '') plain.push(address);
      }
    },
    addresses: () =>
      isLog
        ? [...counts]
            .map(([address, times]) => ({ address, times }))
            .sort((a, b) => b.times - a.times || (a.address < b.address ? -1 : 1))
        : plain.map((address) => ({ address, times: null })),
  };
}

/** The addresses of a pasted text. */
export function addressesIn(text: string): ListedAddress[] {
  const list = addressList();
  for (const line of text.split(/\r?\n/)) list.add(line);
  return list.addresses();
}
