import escapeHtml from 'escape-html';

/** A plain page of a stand-in. What is put into `${}` is written out, never read as markup; what {@link page} made before stays markup. */
export class Markup {
  readonly text: string;
  constructor(text: string) {
    this.text = text;
  }
}

const written = (value: unknown): string =>
  Array.isArray(value) ? value.map(written).join('') : value instanceof Markup ? value.text : escapeHtml(String(value));

export const html = (pieces: TemplateStringsArray, ...values: readonly unknown[]): Markup =>
  new Markup(pieces.reduce((text, piece, at) => `${text}${written(values[at - 1] ?? '')}${piece}`));

/** The texts between addresses of the web, and these as links. */
export const linked = (text: string): Markup[] =>
  text.split(/(https?:\/\/\S+)/).map((piece, at) => (at % 2 ? html`<a href="${piece}">${piece}</a>` : html`${piece}`));

/** @param head what stands in its head besides its title */
export const page = (title: string, content: Markup, head: Markup = new Markup('')): string =>
  html`<!doctype html>
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <meta name="viewport" content="width=device-width" />
        <title>${title}</title>
        ${head}
        <style>
          body { font: 15px/1.5 system-ui, sans-serif; max-width: 44rem; margin: 3rem auto; padding: 0 1rem; color-scheme: light dark; }
          button { font: inherit; padding: 0.3rem 0.8rem; min-width: 16rem; text-align: left; }
          pre { font: inherit; white-space: pre-wrap; overflow-wrap: anywhere; }
          article { border-top: 1px solid #8886; padding: 0.5rem 0 1rem; }
        </style>
      </head>
      <body>
        <h1>${title}</h1>
        ${content}
      </body>
    </html>`.text;
