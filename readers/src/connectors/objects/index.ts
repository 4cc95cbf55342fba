import { openFiles } from '../files/reading.ts';
import { inWordsOf, reachSteps } from '../network.ts';
import { runSteps } from '../steps.ts';
import type { Connector, ConnectorInput, Reading } from '../types.ts';
import { type BucketAt, explainObjectError, fetchObject, firstObjects, LOOKED_AT, openBucket } from './client.ts';
import { bucketStore } from './store.ts';

/** One bucket of an object store that speaks S3: the same files as a folder, fetched as far as they are looked into. */
export const objects: Connector = { test, open };

async function test(input: ConnectorInput) {
  const words = inWordsOf(explainObjectError, input);
  const { hostname, port, protocol } = new URL(String(input.address.url));
  const reached = {
    ...input,
    address: { ...input.address, host: hostname, port: Number(port || (protocol === 'https:' ? 443 : 80)) },
  };
  let opened: BucketAt | undefined;
  const at = () => opened as BucketAt;
  try {
    return await runSteps([
      ...reachSteps(reached, words),
      [
        'Authenticate',
        async () => {
          opened = openBucket(input);
          // A listing without rights is refused only after the signature was found right.
          await words(
            firstObjects(at()).catch((error: Error) => {
              if (error.name !== 'AccessDenied') throw error;
            }),
          );
          return 'The store accepts the key pair.';
        },
      ],
      [
        'Rights to read the catalog',
        async () => {
          const found = await words(firstObjects(at()));
          return `${found.length === LOOKED_AT ? 'At least ' : ''}${found.length.toLocaleString('en')} objects can be listed.`;
        },
      ],
      [
        'Rights to read data',
        async () => {
          const first = (await words(firstObjects(at()))).find((object) => object.bytes > 0);
          if (!first) return 'There is no object yet to try.';
          await words(fetchObject(at(), first.key, 1));
          return `${first.key} can be read.`;
        },
      ],
    ]);
  } finally {
    opened?.client.destroy();
  }
}

async function open(input: ConnectorInput): Promise<Reading> {
  const inWords = inWordsOf(explainObjectError, input);
  const at = openBucket(input);
  let stopped = false;
  const { store, folder, close } = bucketStore(
    at,
    at.bucket,
    { address: input.address.url, bucket: at.bucket, ...(at.prefix ? { below: at.prefix } : {}) },
    () => stopped,
  );
  const reading = await openFiles(
    { ...store, walk: (part) => inWords(store.walk(part)), local: (file) => inWords(store.local(file)) },
    folder,
    input,
    close,
  );
  return {
    ...reading,
    abort: () => {
      stopped = true;
      at.client.destroy();
      reading.abort();
    },
  };
}
