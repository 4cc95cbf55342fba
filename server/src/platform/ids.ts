import { randomFillSync } from 'node:crypto';
import { v7 } from 'uuid';

const pool = new Uint8Array(16 * 256);
let next = pool.length;
let lastMs = 0;
let sequence = 0;

/**
 * A new id: a UUID of version 7 (RFC 9562, 5.7), with a counter in place of some of its random bits (6.2, method 1), so that the ids of one
 * process only grow: what is written together lies together, at the end of an index.
 */
export function newId(): string {
  if (next === pool.length) {
    randomFillSync(pool); // one call for many: asking the system for each would cost more than the rest
    next = 0;
  }
  next += 16;
  const now = Math.max(lastMs, Date.now()); // a clock that is set back must not take the ids back
  sequence = now === lastMs ? sequence + 1 : 0;
  lastMs = now;
  return v7({ random: pool.subarray(next - 16, next), msecs: now, seq: sequence });
}
