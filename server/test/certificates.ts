import { execFileSync } from 'node:child_process';
import { chmodSync, chownSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** An authority of the tests' own, and certificates that it signs: for `localhost`, one that has expired, and one for another name. */
export function makeCertificates(owner: { uid: number; gid: number }): {
  folder: string;
  authority: string;
  stranger: string;
  of: (name: 'good' | 'expired' | 'other') => { key: string; certificate: string };
} {
  const folder = mkdtempSync(join(tmpdir(), 'idrel-certificates-'));
  chmodSync(folder, 0o755);
  const at = (name: string) => join(folder, name);
  const openssl = (...args: string[]) => execFileSync('openssl', args, { stdio: 'pipe' });
  for (const name of ['authority', 'stranger'])
    openssl(
      'req',
      '-x509',
      '-newkey',
      'rsa:2048',
      '-nodes',
      '-keyout',
      at(`${name}.key`),
      '-out',
      at(`${name}.pem`),
      '-days',
      '30',
      '-subj',
      `/CN=Test ${name}`,
    );
  for (const [name, host] of [
    ['good', 'localhost'],
    ['expired', 'localhost'],
    ['other', 'elsewhere.example.org'],
  ] as const) {
    openssl(
      'req',
      '-newkey',
      'rsa:2048',
      '-nodes',
      '-keyout',
      at(`${name}.key`),
      '-out',
      at(`${name}.csr`),
      '-subj',
      `/CN=${host}`,
    );
    writeFileSync(at(`${name}.ext`), `subjectAltName=DNS:${host}\n`);
    const days = name === 'expired' ? '-1' : '30';
    openssl(
      'x509',
      '-req',
      '-in',
      at(`${name}.csr`),
      '-CA',
      at('authority.pem'),
      '-CAkey',
      at('authority.key'),
      '-CAcreateserial',
      '-out',
      at(`${name}.pem`),
      '-days',
      days,
      '-extfile',
      at(`${name}.ext`),
    );
    chmodSync(at(`${name}.key`), 0o600);
    chownSync(at(`${name}.key`), owner.uid, owner.gid);
  }
  return {
    folder,
    authority: readFileSync(at('authority.pem'), 'utf8').trim(),
    stranger: readFileSync(at('stranger.pem'), 'utf8').trim(),
    of: (name) => ({ key: at(`${name}.key`), certificate: at(`${name}.pem`) }),
  };
}
