import { TextDecoder } from 'node:util';

/** What one request of a crawl came to. */
export interface Answer {
  readonly status: number;
  readonly type: string;
  /** Where it redirects to, as the server wrote it. */
  readonly location: string | null;
  /** The text, where it is of the kind that was wanted. */
  readonly body: string | null;
  /** Seconds after which the server wants to be asked again. */
  readonly retryAfter: number | null;
  /** Why there was no answer. */
  readonly failure: string | null;
}

export const USER_AGENT = 'kleidon/0.1';
const MAX_BYTES = 2 * 1024 * 1024;
const WANTED = { html: /^(text\/html|application\/xhtml\+xml)\b/, text: /^(text\/|$)/ };

/**
 * Asks for an address with GET; only a body of the wanted kind is read, and no more than is sensible of it.
 * @param timeout how long the answer may take to its end, in seconds
 */
export async function ask(
  address: string,
  wanted: keyof typeof WANTED,
  timeout: number,
): Promise<Answer> {
  let response: Response;
  try {
    response = await fetch(address, {
      redirect: 'manual',
      headers: { 'User-Agent': USER_AGENT, Accept: 'text/html,application/xhtml+xml,*/*;q=0.5' },
      signal: AbortSignal.timeout(timeout * 1000),
    });
    const type = response.headers.get('Content-Type')?.toLowerCase() ?? '';
    const isWanted = WANTED[wanted].test(type) && response.status === 200;
    const body = isWanted ? await textOf(response) : null;
    if (!isWanted) await response.body?.cancel();
    const retryAfter = Number(response.headers.get('Retry-After') ?? Number.NaN);
    return {
      status: response.status,
      type,
      location: response.headers.get('Location'),
      body,
      retryAfter: Number.isFinite(retryAfter) ? retryAfter : null,
      failure: null,
    };
  } catch (error) {
    const { message } = ((error as Error).cause ?? error) as Error;
    const failure = message || 'no answer';
    return { status: 0, type: '', location: null, body: null, retryAfter: null, failure };
  }
}

async function textOf(response: Response): Promise<string> {
  const charset = /charset=["']?([\w-]+)/.exec(response.headers.get('Content-Type') ?? '')?.[1];
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of (response.body ?? []) as AsyncIterable<Uint8Array>) {
    chunks.push(chunk);
    size += chunk.length;
    if (size > MAX_BYTES) break;
  }
  return decoder(charset).decode(Buffer.concat(chunks));
}

function decoder(charset: string | undefined): TextDecoder {
  try {
    return new TextDecoder(charset ?? 'utf-8');
  } catch {
    return new TextDecoder();
  }
}
