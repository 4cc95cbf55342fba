import { randomFillSync } from 'node:crypto';
import { v7 } from 'uuid';

const pool = new Uint8Array(16 * 256);
let next = pool.length;

/** A new id: a UUID of version 7 (RFC 9562, 5.7). Ids made one after another lie side by side in an index. */
export function newId(): string {
  if (next === pool.length) {
    randomFillSync(pool); // one call for many: asking the system for each would cost more than the rest
    next = 0;
  }
  next += 16;
  return v7({ random: pool.subarray(next - 16, next) });
}
