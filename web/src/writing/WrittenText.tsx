import { factsOf } from '@idrel/contract/things';
import { targetOf } from '@idrel/core/writing/mentions';
import { type ReactNode, useId, useMemo } from 'react';
import Markdown, { defaultUrlTransform } from 'react-markdown';
import { Link } from 'react-router';
import remarkGfm from 'remark-gfm';
import { pictureAddress } from './pictureAddress.ts';

/** Links of Idrel's own, and those that a browser may follow without harm. */
const safe = (url: string) => (targetOf(url) ? url : defaultUrlTransform(url));

function Leading({ href = '', children, ...footnote }: { href?: string; children?: ReactNode }) {
  // To a footnote, and back from it.
  if (href.startsWith('#'))
    return (
      <a href={href} {...withoutNode(footnote)}>
        {children}
      </a>
    );
  const target = targetOf(href);
  if (!target)
    return (
      <a href={href} target="_blank" rel="noreferrer noopener">
        {children}
      </a>
    );
  const address = target.kind === 'picture' ? undefined : factsOf(target.kind)?.address?.(target.id);
  const marked = `mention of-${target.kind}`;
  return address ? (
    <Link to={address} className={marked}>
      {children}
    </Link>
  ) : (
    <span className={marked}>{children}</span>
  );
}

/** What is said of a link besides where it leads. */
const withoutNode = ({ node: _, ...said }: { node?: unknown }): object => said;

/** A picture that is kept here; others are not loaded, only led to: a page loads nothing from outside. */
function Picture({ src = '', alt = '' }: { src?: string | Blob | undefined; alt?: string | undefined }) {
  const address = typeof src === 'string' ? src : '';
  if (targetOf(address)?.kind !== 'picture') return <Leading href={address}>{alt || address}</Leading>;
  return <img src={pictureAddress(address)} alt={alt} loading="lazy" />;
}

/** The box before a thing to do. */
const Box = ({ checked }: { checked?: boolean | undefined }) => (
  <span role="img" aria-label={checked ? 'done' : 'to do'}>
    {checked ? '☑' : '☐'}
  </span>
);

interface Block {
  readonly type: string;
  depth?: number;
}
/** Headings of a text within a page: each one deeper than the page's own, and none deeper than one more than the one before. */
const evenHeadings = (under: number) => () => (tree: { readonly children: readonly Block[] }) => {
  let last = under;
  for (const node of tree.children) {
    if (node.type !== 'heading' || node.depth === undefined) continue;
    last = Math.min(under + Math.max(1, node.depth - 1), last + 1, 6);
    node.depth = last;
  }
};

/** A text as it is read, of Markdown: what HTML it holds is shown as letters. @param under the level of the heading below which it stands */
export function WrittenText({ text, under = 2 }: { text: string; under?: number }) {
  const plugins = useMemo(() => [remarkGfm, evenHeadings(under)], [under]);
  // Several texts stand on one page, each with footnotes of its own.
  const own = useId();
  const footnotes = useMemo(
    () => ({
      clobberPrefix: `${own}-`,
      footnoteLabel: 'Footnotes',
      footnoteLabelTagName: 'p',
      footnoteLabelProperties: { className: ['quiet', 'small'] },
    }),
    [own],
  );
  return (
    <div className="text">
      <Markdown
        remarkPlugins={plugins}
        remarkRehypeOptions={footnotes}
        urlTransform={safe}
        components={{ a: Leading, img: Picture, input: Box }}
      >
        {text}
      </Markdown>
    </div>
  );
}
