import jsonld from 'jsonld';
import { cannotRead } from './sheets.ts';

/** Nothing is fetched: what a file refers to must stand in it. */
const fetchNothing = (url: string): Promise<never> =>
  Promise.reject(
    cannotRead(
      `The file takes what its words mean from ${url}, and nothing is fetched.`,
      'Put what stands there into its @context.',
    ),
  );

/** How the library reads: from the file alone. */
export const NOTHING_FETCHED = { documentLoader: fetchNothing } as object;

/** The nodes of a file of JSON-LD, each term as the name that it stands for. @throws 422 */
export const expandJsonLd = (text: string): Promise<readonly unknown[]> =>
  readingJsonLd(text, async (json) => (await jsonld.expand(json, NOTHING_FETCHED)) as readonly unknown[]);

/** Reads a file of JSON-LD; what is wrong with it is told in words. @throws 422 */
export async function readingJsonLd<T>(text: string, read: (json: object) => Promise<T>): Promise<T> {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw cannotRead(`The file is no JSON: ${(error as Error).message}`, 'Save it as JSON-LD anew.');
  }
  try {
    return await read(json as object);
  } catch (error) {
    const cause = (error as { details?: { cause?: Error } }).details?.cause;
    if ((cause as { code?: string } | undefined)?.code === 'invalid') throw cause as Error;
    if ((error as { code?: string }).code === 'invalid') throw error;
    throw cannotRead(`The file is no JSON-LD: ${(error as Error).message}`, 'Check its @context.');
  }
}
