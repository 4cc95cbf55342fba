import {
  createCipheriv,
  createDecipheriv,
  createHash,
  hkdfSync,
  randomBytes,
  scrypt,
  timingSafeEqual,
} from 'node:crypto';
import { promisify } from 'node:util';

const NONCE = 12;
const TAG = 16;

/**
 * A key for one purpose, derived from the one that the operator gives (HKDF, RFC 5869): what is known of one tells nothing of the others.
 * @param master 32 bytes
 */
export const keyFor = (master: Buffer, purpose: 'credentials' | 'digests'): Buffer =>
  Buffer.from(hkdfSync('sha256', master, Buffer.alloc(0), `idrel ${purpose}`, 32));

/** Encrypts a text with AES-256-GCM; nonce, tag and text come as one. */
export function encrypt(key: Buffer, text: string): Buffer {
  const nonce = randomBytes(NONCE);
  const cipher = createCipheriv('aes-256-gcm', key, nonce);
  const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), sealed]);
}

/** @throws Error when the key is another one, or the bytes were changed */
export function decrypt(key: Buffer, sealed: Buffer): string {
  const decipher = createDecipheriv('aes-256-gcm', key, sealed.subarray(0, NONCE));
  decipher.setAuthTag(sealed.subarray(NONCE, NONCE + TAG));
  return Buffer.concat([decipher.update(sealed.subarray(NONCE + TAG)), decipher.final()]).toString('utf8');
}

/**
 * A secret under the key that holds now.
 * @returns the same where it is already; undefined where no key opens it
 */
export function sealedAnew(
  { key, keysBefore }: { readonly key: Buffer; readonly keysBefore: readonly Buffer[] },
  sealed: Buffer,
): Buffer | undefined {
  if (opened(key, sealed) !== undefined) return sealed;
  const text = keysBefore.map((before) => opened(before, sealed)).find((found) => found !== undefined);
  return text === undefined ? undefined : encrypt(key, text);
}

function opened(key: Buffer, sealed: Buffer): string | undefined {
  try {
    return decrypt(key, sealed);
  } catch {
    return undefined;
  }
}

const derive = promisify<string, Buffer, number, Buffer>(scrypt);

/** A password's scrypt digest with its salt, as text. */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  return `scrypt:${salt.toString('base64')}:${(await derive(password, salt, 32)).toString('base64')}`;
}

export async function passwordMatches(password: string, stored: string): Promise<boolean> {
  const [scheme, salt, digest] = stored.split(':');
  if (scheme !== 'scrypt' || !salt || !digest) return false;
  const expected = Buffer.from(digest, 'base64');
  return timingSafeEqual(await derive(password, Buffer.from(salt, 'base64'), expected.length), expected);
}

export const newToken = (): string => randomBytes(32).toString('base64url');
export const digest = (token: string): Buffer => createHash('sha256').update(token).digest();
