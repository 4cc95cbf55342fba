/** What can be mentioned in a text, and stays linked whatever it is called later. */
export const MENTIONED = ['person', 'group', 'asset', 'term'] as const;
export type Mentioned = (typeof MENTIONED)[number];

const ID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;
/** What a link of Idrel's own leads to: `idrel:asset/…` with an id. Undefined for any other link. */
export function targetOf(url: string): { readonly kind: Mentioned | 'picture'; readonly id: string } | undefined {
  const [kind = '', id = ''] = url.startsWith('idrel:') ? url.slice('idrel:'.length).split('/') : [];
  return [...MENTIONED, 'picture'].includes(kind) && ID.test(id)
    ? { kind: kind as Mentioned | 'picture', id }
    : undefined;
}

/** A mention as it stands in a text. */
export const mentionText = (kind: Mentioned, id: string, label: string): string =>
  `[${escaped(label)}](idrel:${kind}/${id})`;
/** A name as Markdown writes it. */
export const escaped = (label: string) => label.replace(/[\\[\]`*_~<&!|]/g, '\\$&').replace(/\s+/g, ' ');
