/** An array whose items are sent when they are known, each on a line of its own; it ends when the asker goes away. */
export function answerLines<T>(items: AsyncIterable<T>, toJson: (item: T) => unknown = (item) => item): Response {
  const iterator = items[Symbol.asyncIterator]();
  const utf8 = new TextEncoder();
  let isFirst = true;
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const next = await iterator.next();
      if (next.done) {
        controller.enqueue(utf8.encode(isFirst ? '[]' : '\n]'));
        controller.close();
        return;
      }
      controller.enqueue(utf8.encode(`${isFirst ? '[\n' : ',\n'}${JSON.stringify(toJson(next.value))}`));
      isFirst = false;
    },
    async cancel() {
      await iterator.return?.();
    },
  });
  return new Response(body, { headers: { 'content-type': 'application/json', 'cache-control': 'no-store' } });
}
