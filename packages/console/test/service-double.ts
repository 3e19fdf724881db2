/** What a component sent to the service, and what it was answered, where no service runs. */
export interface Sent {
  readonly method: string;
  readonly path: string;
  readonly ifMatch: string | null;
  readonly body: unknown;
}

type Answers = Readonly<Record<string, (sent: Sent) => unknown>>;

/**
 * Answers for the service while a component is looked at by itself.
 * @param answers by method and path, such as `POST /api/sites/s/releases`; an Error is answered as a problem document
 */
export function answerFor(answers: Answers): readonly Sent[] {
  const sent: Sent[] = [];
  globalThis.fetch = async (input) => {
    const request = input as Request;
    const text = await request.text();
    const { pathname } = new URL(request.url);
    const one: Sent = {
      method: request.method,
      path: pathname,
      ifMatch: request.headers.get('If-Match'),
      body: text === '' ? null : JSON.parse(text),
    };
    sent.push(one);
    const answer = answers[`${request.method} ${pathname}`];
    if (!answer) throw new Error(`Nothing answers ${request.method} ${pathname}.`);
    const value = answer(one);
    return value instanceof Error
      ? new Response(
          JSON.stringify({
            type: `/api/problems/${value.message}`,
            title: value.message,
            status: 409,
            remedy: 'Do otherwise.',
          }),
          { status: 409, headers: { 'Content-Type': 'application/problem+json' } },
        )
      : Response.json(value);
  };
  return sent;
}
