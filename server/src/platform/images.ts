import { imageSize } from 'image-size';
import { invalid } from './problems.ts';

/** Beyond it a browser needs more memory for a picture than a page should take. */
const WIDEST = 8000;

const NAMES = { png: 'PNG', jpg: 'JPEG', webp: 'WebP', gif: 'GIF', svg: 'SVG' } as const;
type Format = keyof typeof NAMES;
const TYPES = {
  png: 'image/png',
  jpg: 'image/jpeg',
  webp: 'image/webp',
  gif: 'image/gif',
  svg: 'image/svg+xml',
} as const satisfies Record<Format, string>;

/** No browser is to make more of the bytes of an image than a picture, whatever they may be beside. */
export const ONLY_SHOWN = { 'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; sandbox" };

const unfit = (detail: string, mend: string) => invalid(detail, mend, [{ field: 'content', message: 'does not fit' }]);
const oneOf = (formats: readonly Format[]): string =>
  new Intl.ListFormat('en', { type: 'disjunction' }).format(formats.map((format) => NAMES[format]));

/**
 * What an image is, by its bytes alone: what its sender calls it is not asked.
 * @param formats those that are taken
 * @param most bytes
 * @throws 422
 */
export function imageFacts<F extends Format>(
  bytes: Buffer,
  formats: readonly F[],
  most: number,
): { type: (typeof TYPES)[F]; width: number; height: number } {
  if (bytes.length > most) throw unfit(`The picture is larger than ${most >> 20} MB.`, 'Make it smaller, or cut it.');
  let facts: ReturnType<typeof imageSize> | undefined;
  try {
    facts = imageSize(bytes);
  } catch {
    // told below: it is none that is known
  }
  const format = formats.find((one) => one === facts?.type);
  if (!facts || !format) throw unfit('This is no picture that can be shown.', `Take one in ${oneOf(formats)}.`);
  const { width, height } = facts;
  if (!(width >= 1 && height >= 1 && width <= WIDEST && height <= WIDEST))
    throw unfit(`The picture is ${width} × ${height} points large.`, `Take one of at most ${WIDEST} × ${WIDEST}.`);
  return { type: TYPES[format], width, height };
}
