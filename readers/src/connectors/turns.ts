/** So long is worked at a stretch before whatever else waits has its turn, in milliseconds. */
const STRETCH = 100;

/** Gives others their turn whenever work has gone on for a while; to be called between its pieces. */
export function takingTurns(): () => Promise<void> {
  let began = performance.now();
  return async () => {
    if (performance.now() - began < STRETCH) return;
    await new Promise((resolve) => setImmediate(resolve));
    began = performance.now();
  };
}
