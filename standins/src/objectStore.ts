import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { readdir, readFile, stat } from 'node:fs/promises';
import { join, normalize } from 'node:path';
import { type Request, type Response, Router } from 'express';
import { checkSignature } from './signature.ts';

/** What a key may do: in which buckets it may list, and in which it may read. */
export interface StoreKey {
  readonly secret: string;
  readonly list: readonly string[];
  readonly read: readonly string[];
}

const entities = (text: string) => text.replace(/[&<>"']/g, (character) => `&#${character.charCodeAt(0)};`);
const xml = (response: Response, status: number, body: string) =>
  response.status(status).type('application/xml').send(`<?xml version="1.0" encoding="UTF-8"?>\n${body}`);
const STATUS: Record<string, number> = { NoSuchBucket: 404, NoSuchKey: 404, InvalidRange: 416, MethodNotAllowed: 405 };
const refuse = (response: Response, code: string, message: string) =>
  xml(
    response,
    STATUS[code] ?? 403,
    `<Error><Code>${code}</Code><Message>${entities(message)}</Message><RequestId>${createHash('sha256').update(String(Date.now())).digest('hex').slice(0, 16)}</RequestId></Error>`,
  );

interface Listed {
  readonly key: string;
  readonly bytes: number;
  readonly modified: Date;
}

/**
 * A small object store over folders of a disk: what a reader of S3 needs (list, head, get with ranges), with signatures checked and rights kept.
 * Buckets are the folders below `root`; keys are kept in `root/keys.json`, read anew with each request.
 */
export function objectStore(root: string): Router {
  const router = Router();
  const keysOf = async () => JSON.parse(await readFile(join(root, 'keys.json'), 'utf8')) as Record<string, StoreKey>;
  const allowed = async (
    request: Request,
    response: Response,
    right: 'list' | 'read',
    bucket: string,
  ): Promise<boolean> => {
    const keys = await keysOf();
    const checked = await checkSignature(request, (key) => keys[key]?.secret);
    if ('refused' in checked) {
      refuse(response, checked.refused, 'The request was not signed as it should be.');
      return false;
    }
    const exists = await stat(join(root, bucket)).then(
      (facts) => facts.isDirectory(),
      () => false,
    );
    if (!exists) refuse(response, 'NoSuchBucket', `There is no bucket ${bucket}`);
    else if (!keys[checked.key]?.[right].includes(bucket))
      refuse(response, 'AccessDenied', `${checked.key} may not ${right} in ${bucket}`);
    else return true;
    return false;
  };

  router.head('/:bucket', async (request, response) => {
    if (await allowed(request, response, 'list', request.params.bucket)) response.status(200).end();
  });
  router.get('/:bucket', async (request, response) => {
    const { bucket } = request.params;
    if (!(await allowed(request, response, 'list', bucket))) return;
    const prefix = String(request.query.prefix ?? '');
    const most = Math.min(1000, Number(request.query['max-keys'] ?? 1000));
    const after = Buffer.from(String(request.query['continuation-token'] ?? ''), 'base64').toString();
    const all = (await list(join(root, bucket))).filter((entry) => entry.key.startsWith(prefix) && entry.key > after);
    const page = all.slice(0, most);
    const more = all.length > page.length;
    const contents = page.map(
      ({ key, bytes, modified }) =>
        `<Contents><Key>${entities(key)}</Key><LastModified>${modified.toISOString()}</LastModified><ETag>&quot;${tagOf(key, bytes, modified)}&quot;</ETag><Size>${bytes}</Size><StorageClass>STANDARD</StorageClass></Contents>`,
    );
    xml(
      response,
      200,
      `<ListBucketResult xmlns="http://s3.amazonaws.com/doc/2006-03-01/"><Name>${bucket}</Name><Prefix>${entities(prefix)}</Prefix><KeyCount>${page.length}</KeyCount><MaxKeys>${most}</MaxKeys><IsTruncated>${more}</IsTruncated>${more ? `<NextContinuationToken>${Buffer.from(page.at(-1)?.key ?? '').toString('base64')}</NextContinuationToken>` : ''}${contents.join('')}</ListBucketResult>`,
    );
  });
  router.get('/:bucket/*key', async (request, response) => {
    const { bucket } = request.params;
    const key = (request.params.key as unknown as string[]).join('/');
    if (!(await allowed(request, response, 'read', bucket))) return;
    const path = normalize(join(root, bucket, key));
    const facts = path.startsWith(join(root, bucket, '/')) ? await stat(path).catch(() => undefined) : undefined;
    if (!facts?.isFile()) {
      refuse(response, 'NoSuchKey', `There is no object ${key}`);
      return;
    }
    response.set({
      etag: `"${tagOf(key, facts.size, facts.mtime)}"`,
      'last-modified': facts.mtime.toUTCString(),
      'accept-ranges': 'bytes',
      'content-type': 'application/octet-stream',
    });
    const range = /^bytes=(\d+)-(\d*)$/.exec(request.get('range') ?? '');
    const from = range ? Number(range[1]) : 0;
    const to = range?.[2] ? Math.min(facts.size - 1, Number(range[2])) : facts.size - 1;
    if (range && from >= facts.size) {
      refuse(response, 'InvalidRange', 'The range lies outside of the object');
      return;
    }
    if (range) response.status(206).set('content-range', `bytes ${from}-${to}/${facts.size}`);
    response.set('content-length', String(Math.max(0, to - from + 1)));
    if (request.method === 'HEAD' || facts.size === 0) response.end();
    else createReadStream(path, { start: from, end: to }).pipe(response);
  });
  router.all('/*rest', (_, response) => {
    refuse(response, 'MethodNotAllowed', 'This store is read only');
  });
  return router;
}

const tagOf = (key: string, bytes: number, modified: Date) =>
  createHash('md5').update(`${key} ${bytes} ${modified.getTime()}`).digest('hex');

/** Objects in the order in which the protocol lists them: by the bytes of their keys. */
async function list(folder: string, before = ''): Promise<Listed[]> {
  const found: Listed[] = [];
  for (const entry of await readdir(folder, { withFileTypes: true })) {
    const key = before + entry.name;
    if (entry.isDirectory()) found.push(...(await list(join(folder, entry.name), `${key}/`)));
    else if (entry.isFile()) {
      const facts = await stat(join(folder, entry.name));
      found.push({ key, bytes: facts.size, modified: facts.mtime });
    }
  }
  return found.sort((a, b) => Buffer.compare(Buffer.from(a.key), Buffer.from(b.key)));
}
