import { Sha256 } from '@aws-crypto/sha256-js';
import { SignatureV4 } from '@smithy/signature-v4';
import type { Request } from 'express';

/** Why a request is refused, in the protocol's own words. */
export type Refusal = 'AccessDenied' | 'InvalidAccessKeyId' | 'SignatureDoesNotMatch' | 'RequestTimeTooSkewed';

const SKEW_MS = 15 * 60_000;

/**
 * Checks a request's signature (AWS Signature Version 4, in the header) by signing it again with the secret that belongs to its key.
 * @param secretOf the secret of a key, or undefined when the key is unknown
 * @returns the key, or why the request is refused
 */
export async function checkSignature(
  request: Request,
  secretOf: (key: string) => string | undefined,
): Promise<{ key: string } | { refused: Refusal }> {
  const match =
    /^AWS4-HMAC-SHA256 Credential=([^/]+)\/(\d{8})\/([^/]+)\/s3\/aws4_request, ?SignedHeaders=([^,]+), ?Signature=([0-9a-f]{64})$/.exec(
      request.get('authorization') ?? '',
    );
  if (!match) return { refused: 'AccessDenied' };
  const [, key = '', , region = '', signed = '', signature] = match;
  const secret = secretOf(key);
  if (secret === undefined) return { refused: 'InvalidAccessKeyId' };
  const at = request.get('x-amz-date') ?? '';
  const signingDate = new Date(at.replace(/^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)Z$/, '$1-$2-$3T$4:$5:$6Z'));
  if (!(Math.abs(Date.now() - signingDate.getTime()) < SKEW_MS)) return { refused: 'RequestTimeTooSkewed' };
  const names = signed.split(';');
  const url = new URL(request.originalUrl, 'http://localhost');
  const query: Record<string, string | string[]> = {};
  for (const name of new Set(url.searchParams.keys())) {
    const values = url.searchParams.getAll(name);
    query[name] = values.length > 1 ? values : (values[0] ?? '');
  }
  const signer = new SignatureV4({
    credentials: { accessKeyId: key, secretAccessKey: secret },
    region,
    service: 's3',
    sha256: Sha256,
    uriEscapePath: false,
    applyChecksum: false,
  });
  const again = await signer.sign(
    {
      method: request.method,
      protocol: 'http:',
      hostname: request.hostname,
      path: url.pathname,
      query,
      headers: Object.fromEntries(names.map((name) => [name, request.get(name) ?? ''])),
    },
    {
      signingDate,
      signableHeaders: new Set(names),
      unsignableHeaders: new Set(Object.keys(request.headers).filter((name) => !names.includes(name))),
    },
  );
  return again.headers.authorization?.endsWith(`Signature=${signature}`)
    ? { key }
    : { refused: 'SignatureDoesNotMatch' };
}
