import type { KindAnswer } from '@idrel/contract/sources';

/**
 * Fields of an address from a pasted connection URL (RFC 3986): the scheme says the kind. A password in it is left out, since secrets belong to credentials.
 * @returns undefined when the text is no URL of a known scheme
 */
export function fromUrl(
  text: string,
  kinds: readonly Pick<KindAnswer, 'kind' | 'schemes' | 'fields'>[],
): { kind: KindAnswer['kind']; address: Record<string, string> } | undefined {
  const scheme = /^([a-z][a-z0-9+.-]*):\/\//.exec(text.trim())?.[1];
  const kind = scheme && kinds.find((entry) => entry.schemes.includes(scheme));
  if (!kind) return undefined;
  let url: URL;
  try {
    url = new URL(text.trim());
  } catch {
    return undefined;
  }
  const path = decodeURIComponent(url.pathname);
  if (kind.fields.some((field) => field.name === 'path')) return { kind: kind.kind, address: { path } };
  if (kind.fields.some((field) => field.name === 'bucket'))
    return { kind: kind.kind, address: { bucket: url.hostname, prefix: path.slice(1) } };
  const port = url.port || String(kind.fields.find((field) => field.name === 'port')?.default ?? '');
  // The word that most connection URLs use for encryption.
  const mode = url.searchParams.get('sslmode') ?? url.searchParams.get('ssl-mode')?.toLowerCase().replace('_', '-');
  const tls: Record<string, string> =
    mode === undefined || !kind.fields.some((field) => field.name === 'tls')
      ? {}
      : { tls: /^verify/.test(mode) ? 'checked' : /^(require|prefer)/.test(mode) ? 'yes' : 'no' };
  return { kind: kind.kind, address: { host: url.hostname, port, database: path.slice(1), ...tls } };
}
