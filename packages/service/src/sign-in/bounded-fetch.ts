/** As much as what a login publishes may have, in bytes: metadata, keys, claims. */
const MOST = 1024 * 1024;

/**
 * Fetches as `fetch` does. A body that is too long when it is unpacked is an error, and is read no further.
 *
 * @param most how long it may be, in bytes
 */
export async function boundedFetch(
  address: string | URL,
  init?: RequestInit,
  most = MOST,
): Promise<Response> {
  const response = await fetch(address, init);
  if (response.body === null) return response;
  let read = 0;
  const counting = new TransformStream<Uint8Array, Uint8Array>({
    transform: (chunk, controller) => {
      read += chunk.length;
      if (read > most) controller.error(new Error(`The answer has over ${most} bytes.`));
      else controller.enqueue(chunk);
    },
  });
  const { status, statusText, headers } = response;
  return new Response(response.body.pipeThrough(counting), { status, statusText, headers });
}
