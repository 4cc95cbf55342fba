const UNITS = ['', 'k', 'm', 'g', 't', 'p'];
const SIZE = /^(\d{1,15}(?:\.\d{1,3})?)\s*([kmgtp]?)b?$/;

/**
 * How many bytes a size is: `800kB`, `20MB`, `1.5GB`, or a bare number of bytes. Units go by thousands (SI), in whichever case they are written.
 * @returns undefined where it is none
 */
export function sizeOf(text: string): number | undefined {
  const [, number, unit] = SIZE.exec(text.toLowerCase()) ?? [];
  return number === undefined ? undefined : Math.round(Number(number) * 1000 ** UNITS.indexOf(unit ?? ''));
}
