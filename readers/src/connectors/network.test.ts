import { describe, expect, it } from 'vitest';
import { encryptionOf, explainNetworkError, inWordsOf } from './network.ts';
import { SourceProblem } from './types.ts';

const input = { name: 'x', address: { host: 'db.example.org', port: 5432 }, secret: null };
const told = (code: string) =>
  explainNetworkError(Object.assign(new Error('as the system says'), { code }), input, 'Start it there.');

describe('errors of the network', () => {
  it.each([
    ['ENOTFOUND', /The name db\.example\.org is not known/, /spelling/],
    ['EAI_AGAIN', /is not known/, /spelling/],
    ['ECONNREFUSED', /Nothing listens at db\.example\.org:5432/, /^Start it there\.$/],
    ['ETIMEDOUT', /does not answer/, /firewall/],
    ['EHOSTUNREACH', /does not answer/, /firewall/],
    [
      'DEPTH_ZERO_SELF_SIGNED_CERT',
      /vouched for by nobody that this machine knows \(as the system says\)/,
      /certificate of your authority/,
    ],
    ['UNABLE_TO_VERIFY_LEAF_SIGNATURE', /vouched for by nobody/, /authority/],
    ['ERR_TLS_CERT_ALTNAME_INVALID', /is that of another server/, /by the name that stands in its certificate/],
    ['CERT_HAS_EXPIRED', /has expired/, /renew/],
    ['HANDSHAKE_NO_SSL_SUPPORT', /does not encrypt/, /choose none/],
  ])('%s is put into words, with what mends it', (code, what, mend) => {
    const problem = told(code);
    expect(problem?.message).toMatch(what);
    expect(problem?.mend).toMatch(mend);
  });

  it('leave alone what is none of the network', () => {
    expect(told('28P01')).toBeUndefined();
    expect(explainNetworkError(new Error('x'), input, '')).toBeUndefined();
  });

  it('are explained once, and not over again', async () => {
    const first = new SourceProblem('said already', 'mend');
    const words = inWordsOf(() => new SourceProblem('said again', ''), input);
    await expect(words(Promise.reject(first))).rejects.toBe(first);
    await expect(words(Promise.reject(new Error('raw')))).rejects.toThrow('said again');
    await expect(words(Promise.resolve(7))).resolves.toBe(7);
  });
});

describe('encryption as clients take it', () => {
  const of = (address: Record<string, string>) => encryptionOf({ address });
  it('is none unless it is asked for, also for sources that were registered before it could be', () => {
    expect([of({}), of({ tls: 'no' }), of({ tls: 'no', authority: 'PEM' })]).toEqual([undefined, undefined, undefined]);
  });
  it('checks the certificate when asked to, against an authority of one’s own where there is one', () => {
    expect(of({ tls: 'yes' })).toEqual({ rejectUnauthorized: false });
    expect(of({ tls: 'checked', authority: '' })).toEqual({ rejectUnauthorized: true });
    expect(of({ tls: 'checked', authority: 'PEM' })).toEqual({ rejectUnauthorized: true, ca: 'PEM' });
  });
});
