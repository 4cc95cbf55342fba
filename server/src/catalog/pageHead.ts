import { Parser } from 'htmlparser2';

/** What a page says of itself. */
export interface PageHead {
  readonly title: string | null;
  readonly text: string | null;
  readonly site: string | null;
}

const LONGEST = { title: 200, text: 300, site: 80 } as const;
/** Each from where it is best said: The Open Graph protocol (ogp.me) first, then HTML itself. */
const SAID = {
  title: ['og:title', 'title'],
  text: ['og:description', 'description'],
  site: ['og:site_name', 'application-name'],
} as const;

/**
 * Reads what a page says of itself, out of its head alone.
 * @param html as much of the page as there is; what comes after its head is not looked at
 */
export function pageHead(html: string): PageHead {
  const said = new Map<string, string>();
  let inTitle = false;
  const keep = (name: string, value: string) => {
    if (!said.has(name) && value.trim()) said.set(name, value);
  };
  let title = '';
  const parser = new Parser({
    onopentag(name, attributes) {
      if (name === 'body') parser.pause();
      if (name === 'title') inTitle = true;
      if (name === 'meta') keep((attributes.property ?? attributes.name ?? '').toLowerCase(), attributes.content ?? '');
    },
    ontext(text) {
      if (inTitle && title.length < LONGEST.title * 2) title += text;
    },
    onclosetag(name) {
      if (name === 'title') {
        inTitle = false;
        keep('title', title);
      }
      if (name === 'head') parser.pause();
    },
  });
  parser.write(html);
  const first = (names: readonly string[], longest: number) => {
    const found = names.map((name) => said.get(name)).find((value) => value !== undefined);
    const plain = found?.replace(/\s+/g, ' ').trim() ?? '';
    if (!plain) return null;
    return plain.length > longest ? `${plain.slice(0, longest - 1)}…` : plain;
  };
  return {
    title: first(SAID.title, LONGEST.title),
    text: first(SAID.text, LONGEST.text),
    site: first(SAID.site, LONGEST.site),
  };
}
