/** How browsers take the content of a response. */
export type ContentKind =
  | { readonly is: 'html'; readonly charset: string | null }
  /** Some are pages in XHTML; others are ones only if they hold elements of it. */
  | { readonly is: 'xml'; readonly charset: string | null; readonly isPage: boolean }
  /** They look at the content, or take it apart into several. */
  | { readonly is: 'unclear'; readonly why: string }
  | { readonly is: 'other' };

const TOKEN = "[!#$%&'*+.^_`|~\\w-]+";
const MEDIA_TYPE = new RegExp(`^[\\t ]*(${TOKEN}/${TOKEN})[\\t ]*(?:;(.*))?$`, 's');
/** Types that make browsers look at the content (MIME Sniffing Standard, 7). */
const SNIFFED: ReadonlySet<string> = new Set(['*/*', 'unknown/unknown', 'application/unknown']);

/**
 * Tells how browsers take a response by its type (MIME Sniffing Standard).
 * @param types the values of all fields `Content-Type`
 */
export function contentKind(types: readonly string[]): ContentKind {
  const [type] = types;
  if (type === undefined) return { is: 'unclear', why: 'it has no Content-Type' };
  if (types.length > 1) return { is: 'unclear', why: 'it has more than one Content-Type' };
  let kind = known.get(type);
  if (kind === undefined) {
    kind = readType(type);
    if (known.size < MOST_KNOWN) known.set(type, kind);
  }
  return kind;
}

// The same few types come again and again.
const known = new Map<string, ContentKind>();
const MOST_KNOWN = 200;

function readType(type: string): ContentKind {
  const match = MEDIA_TYPE.exec(type);
  const essence = match?.[1]?.toLowerCase();
  const parameters = match?.[2] ?? '';
  if (essence === undefined || SNIFFED.has(essence) || /[,\0-\x08\x0a-\x1f]/.test(parameters))
    return { is: 'unclear', why: `its Content-Type is ${JSON.stringify(type)}` };
  if (essence.startsWith('multipart/'))
    return { is: 'unclear', why: `it is ${essence}: several in one` };
  if (essence === 'text/html') return { is: 'html', charset: charsetIn(parameters) };
  const isXml = essence === 'text/xml' || essence === 'application/xml' || essence.endsWith('+xml');
  if (!isXml) return { is: 'other' };
  const isPage = essence === 'application/xhtml+xml';
  return { is: 'xml', charset: charsetIn(parameters), isPage };
}

const charsetIn = (parameters: string): string | null =>
  /(?:^|;)[\t ]*charset=(?:"([^"]*)"|([^;"\t ]*))/i.exec(parameters)?.slice(1).find(Boolean) ??
  null;
