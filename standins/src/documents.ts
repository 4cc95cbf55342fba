import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Router } from 'express';
import { html, page } from './page.ts';

export interface DocumentData {
  readonly site: string;
  readonly pages: readonly {
    /** Below the stand-in's own path. */
    readonly path: string;
    readonly title: string;
    /** What it is about, in a sentence. */
    readonly about: string;
    readonly paragraphs: readonly string[];
  }[];
}

/** An intranet: pages that say of themselves what they are, by the Open Graph protocol. Shows what stands in `documents.json`, read anew with each request. */
export function documents(folder: string): Router {
  const router = Router();
  router.get('/*path', async (request, response) => {
    const { site, pages } = JSON.parse(await readFile(join(folder, 'documents.json'), 'utf8')) as DocumentData;
    const wanted = pages.find(({ path }) => `/${path}` === request.path);
    if (!wanted) {
      response.status(404).send(page('There is no such page', html`<p>It was moved, or taken away.</p>`));
      return;
    }
    const { title, about, paragraphs } = wanted;
    const head = html`
      <meta property="og:title" content="${title}" />
      <meta property="og:description" content="${about}" />
      <meta property="og:site_name" content="${site}" />`;
    response.send(page(title, html`${paragraphs.map((text) => html`<p>${text}</p>`)}`, head));
  });
  return router;
}
