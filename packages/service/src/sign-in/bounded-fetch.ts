/** The maximum size of metadata, keys and claims, in bytes. */
const MOST = 1024 * 1024;

/**
 * `fetch` with a maximum size of the decompressed body. Reading a larger body throws and cancels it.
 *
 * @param most the maximum size in bytes
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
