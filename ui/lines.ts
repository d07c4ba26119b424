// Reads lines of JSON as a server sends them, one after the other.

/** Gives each line of an answer to each, as it comes. */
export async function lines<T>(body: ReadableStream<Uint8Array>, each: (line: T) => void) {
  let left = "";
  const reader = body.pipeThrough(new TextDecoderStream() as unknown as ReadableWritablePair<string, Uint8Array>).getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    const all = (left + value).split("\n");
    left = all.pop() ?? "";
    for (const line of all) each(JSON.parse(line) as T);
  }
}

/** How many searches are before the one that a page waits for. */
export const before = (n: number) => `Waiting: ${n === 1 ? "1 search is" : `${n} searches are`} before yours`;
