/** A small generator with a fixed seed (mulberry32): the same demo on every machine. */
export function seeded(seed: number) {
  let state = seed >>> 0;
  const next = (): number => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = state;
    mixed = Math.imul(mixed ^ (mixed >>> 15), mixed | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
  const below = (limit: number) => Math.floor(next() * limit);
  const pick = <T>(list: readonly T[]): T => list[below(list.length)] as T;
  const digits = (count: number) => Array.from({ length: count }, () => below(10)).join('');
  return { next, below, pick, digits };
}
export type Random = ReturnType<typeof seeded>;

export const day = (date: Date): string => date.toISOString().slice(0, 10);
export const daysBefore = (today: Date, days: number): Date => new Date(today.getTime() - days * 86_400_000);
