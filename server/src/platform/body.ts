import { BODY_BYTES, type Endpoint } from '@idrel/contract/http';
import type { Request } from 'express';
import { ApiProblem } from './problems.ts';

const megabytes = (bytes: number) => (bytes >= 1 << 20 ? `${bytes / (1 << 20)} MB` : `${bytes / 1024} kB`);

/** @throws 415 for a body that is packed, or anything but what is taken, in UTF-8 */
export function mustBe(request: Request, wanted: RegExp, called: string, header: string): void {
  if (request.get('content-encoding') !== undefined && request.get('content-encoding') !== 'identity')
    throw new ApiProblem('packed', 'The body is packed; it is taken only as it is.', {
      mend: 'Send it without Content-Encoding.',
    });
  const [kind = '', ...details] = (request.get('content-type') ?? '').toLowerCase().split(';');
  const charset = details.map((detail) => /^charset="?([^"]+)"?$/.exec(detail.trim())?.[1]).find(Boolean) ?? 'utf-8';
  if (!wanted.test(kind.trim()) || !['utf-8', 'utf8'].includes(charset))
    throw new ApiProblem(
      'other-kind',
      `The body is ${kind.trim() || 'of no kind that is named'}${charset === 'utf-8' ? '' : ` in ${charset}`}; ${called} in UTF-8 is taken.`,
      {
        mend: `Send it with Content-Type: ${header}.`,
      },
    );
}

/**
 * The body of a request as it came, in pieces. It is read only when it is known who asks; nothing is unpacked, since a few bytes can unpack to any
 * number; and not a byte more is kept than the operation takes.
 *
 * @throws 413 beyond the operation's limit; 415 for anything but JSON in UTF-8 as it is
 */
export async function readBody(request: Request, endpoint: Endpoint): Promise<Uint8Array[]> {
  const limit = endpoint.bodyBytes ?? BODY_BYTES;
  const tooLarge = new ApiProblem(
    'too-large',
    `The body is larger than ${megabytes(limit)}, the most that this operation takes.`,
    { mend: 'Send it in parts.' },
  );
  const announced = Number(request.get('content-length') ?? 0);
  if (announced === 0 && request.get('transfer-encoding') === undefined) return [];
  mustBe(request, /^application\/(.+\+)?json$/, 'JSON', 'application/json');
  if (announced > limit) throw tooLarge;
  const pieces: Uint8Array[] = [];
  let bytes = 0;
  for await (const piece of request as AsyncIterable<Buffer>) {
    bytes += piece.length;
    if (bytes > limit) throw tooLarge;
    pieces.push(Uint8Array.from(piece));
  }
  return pieces;
}

/** Lists within lists: no body of a person or a program needs more, and a parser needs a place on its stack for each. */
const DEEPEST = 64;

/** How deep the lists and objects of a JSON text lie within each other, at most; texts within it aside. */
function depthOf(bytes: Uint8Array): number {
  let [depth, deepest, quoted] = [0, 0, false];
  for (let at = 0; at < bytes.length; at += 1) {
    const byte = bytes[at];
    if (quoted) {
      if (byte === 0x5c) at += 1;
      else if (byte === 0x22) quoted = false;
    } else if (byte === 0x22) quoted = true;
    else if (byte === 0x5b || byte === 0x7b) {
      depth += 1;
      deepest = Math.max(deepest, depth);
    } else if (byte === 0x5d || byte === 0x7d) depth -= 1;
  }
  return deepest;
}

/** @throws 400 when it is no JSON in UTF-8, or nested without need */
export function parseBody(pieces: readonly Uint8Array[], what = 'body'): unknown {
  if (pieces.length === 0) return undefined;
  const bytes = Buffer.concat(pieces);
  if (depthOf(bytes) > DEEPEST)
    throw new ApiProblem('too-deep', `The ${what} holds lists within lists, more than ${DEEPEST} deep.`, {
      mend: 'Send it flatter.',
    });
  const text = new TextDecoder('utf-8', { fatal: true });
  try {
    return JSON.parse(text.decode(bytes)) as unknown;
  } catch {
    throw new ApiProblem('not-json', `The ${what} is not JSON in UTF-8.`, {
      mend: 'Send JSON that a parser accepts.',
    });
  }
}
