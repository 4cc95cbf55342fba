import { type _Object, GetObjectCommand, ListObjectsV2Command, S3Client, S3ServiceException } from '@aws-sdk/client-s3';
import { explainNetworkError } from '../network.ts';
import { type ConnectorInput, SourceProblem } from '../types.ts';

export interface BucketAt {
  readonly client: S3Client;
  readonly bucket: string;
  /** Empty, or ending with a slash where it names a folder. */
  readonly prefix: string;
}

/** A client of one bucket: addresses with the bucket in their path, few retries, and no waiting without end. */
export function openBucket({ address, secret, name }: ConnectorInput): BucketAt {
  if (!secret)
    throw new SourceProblem(`${name} has no credential.`, 'Give the source a credential that holds a key pair.');
  process.env.AWS_SDK_JS_NODE_VERSION_SUPPORT_WARNING_DISABLED ??= 'true'; // what it will need one day is for whoever updates it
  const client = new S3Client({
    endpoint: String(address.url),
    region: String(address.region ?? 'us-east-1'),
    forcePathStyle: true,
    credentials: { accessKeyId: secret.username, secretAccessKey: secret.password },
    maxAttempts: 3,
    requestHandler: { connectionTimeout: 5000, requestTimeout: 30_000 },
    // Checksums beyond what the protocol has always had are not known to every store.
    requestChecksumCalculation: 'WHEN_REQUIRED',
    responseChecksumValidation: 'WHEN_REQUIRED',
  });
  return { client, bucket: String(address.bucket), prefix: String(address.prefix ?? '') };
}

/** Puts what the client throws into words. */
export function explainObjectError(error: unknown, input: ConnectorInput): SourceProblem {
  const { address } = input;
  const { hostname, port, protocol } = new URL(String(address.url));
  const reached = {
    ...input,
    address: { ...address, host: hostname, port: port || (protocol === 'https:' ? 443 : 80) },
  };
  const network = explainNetworkError(error, reached, 'Check the address of the store and its port.');
  if (network) return network;
  const { name, message } = error as Error;
  switch (name) {
    case 'InvalidAccessKeyId':
    case 'SignatureDoesNotMatch':
      return new SourceProblem(
        `The store does not accept the key pair (${name === 'SignatureDoesNotMatch' ? 'its secret is another one' : 'it does not know the key'}).`,
        'Store the right key pair as a credential and choose it.',
      );
    case 'NoSuchBucket':
      return new SourceProblem(`There is no bucket ${address.bucket} in this store.`, 'Check the name of the bucket.');
    case 'AccessDenied':
      return new SourceProblem(
        `The key pair may not do this in the bucket ${address.bucket}.`,
        policyFor(String(address.bucket), String(address.prefix ?? '')),
      );
    case 'TimeoutError':
      return new SourceProblem(
        `${address.url} does not answer in time.`,
        'Look whether the store is well, and scan again.',
      );
    default:
      // What stands in the answer beside its code is not passed on: whatever an address inside answers could be read so.
      if (error instanceof S3ServiceException)
        return new SourceProblem(
          `The store refuses${/^[A-Za-z]{1,60}$/.test(name) ? ` (${name})` : ''}, status ${error.$metadata.httpStatusCode ?? 'unknown'}.`,
          'Check the address of the source, and the log of the store.',
        );
      return new SourceProblem(
        /deserialization|not expected/i.test(message)
          ? `${address.url} answers otherwise than a store that speaks S3.`
          : message,
        'Check the address of the source.',
      );
  }
}

/** The rights that reading needs, as the stores write them. */
export const policyFor = (bucket: string, prefix: string): string =>
  JSON.stringify({
    Version: '2012-10-17',
    Statement: [
      {
        Effect: 'Allow',
        Action: ['s3:ListBucket'],
        Resource: [`arn:aws:s3:::${bucket}`],
        ...(prefix ? { Condition: { StringLike: { 's3:prefix': [`${prefix}*`] } } } : {}),
      },
      { Effect: 'Allow', Action: ['s3:GetObject'], Resource: [`arn:aws:s3:::${bucket}/${prefix}*`] },
    ],
  });

export interface ObjectFacts {
  readonly key: string;
  readonly bytes: number;
  readonly modified: string;
  readonly tag: string;
}

const toFacts = ({ Key, Size, LastModified, ETag }: _Object): ObjectFacts[] =>
  Key ? [{ key: Key, bytes: Size ?? 0, modified: (LastModified ?? new Date(0)).toISOString(), tag: ETag ?? '' }] : [];

/** Objects below the prefix, page by page. @throws when there are more than `limit` */
export async function listObjects(
  { client, bucket, prefix }: BucketAt,
  limit: number,
  stopped: () => boolean,
): Promise<ObjectFacts[]> {
  const found: ObjectFacts[] = [];
  let next: string | undefined;
  do {
    if (stopped()) throw new Error('The reading was terminated.');
    const page = await client.send(
      new ListObjectsV2Command({ Bucket: bucket, Prefix: prefix, ...(next ? { ContinuationToken: next } : {}) }),
    );
    found.push(...(page.Contents ?? []).flatMap(toFacts));
    if (found.length > limit)
      throw new SourceProblem(
        `The bucket holds more than ${limit.toLocaleString('en')} objects.`,
        'Register it in several sources, each below another prefix.',
      );
    next = page.IsTruncated ? page.NextContinuationToken : undefined;
  } while (next);
  return found;
}

/** How many objects one question names at most. */
export const LOOKED_AT = 1000;

/** The first objects below the prefix. */
export async function firstObjects({ client, bucket, prefix }: BucketAt): Promise<ObjectFacts[]> {
  const page = await client.send(new ListObjectsV2Command({ Bucket: bucket, Prefix: prefix, MaxKeys: LOOKED_AT }));
  return (page.Contents ?? []).flatMap(toFacts);
}

/** The content of an object, or its first bytes. */
export async function fetchObject({ client, bucket }: BucketAt, key: string, bytes?: number): Promise<Uint8Array> {
  const answer = await client.send(
    new GetObjectCommand({ Bucket: bucket, Key: key, ...(bytes ? { Range: `bytes=0-${bytes - 1}` } : {}) }),
  );
  return (await answer.Body?.transformToByteArray()) ?? new Uint8Array();
}
