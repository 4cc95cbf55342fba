import { readFile } from 'node:fs/promises';
import { join } from 'node:path';

/** What Vite says of a file of the built interface (its build.manifest). */
interface Built {
  readonly file: string;
  readonly name?: string;
  readonly isDynamicEntry?: boolean;
  readonly imports?: readonly string[];
}

/** Views whose file is called otherwise than the first word of their address. */
const OTHERWISE: Readonly<Record<string, string>> = { '': 'Worklist', assets: 'AssetPage' };

/**
 * The page of the interface as it is sent for an address: with the files of the view there named in its head, so that a browser fetches them beside the
 * others and not after them.
 * @param folder of the built interface
 */
export async function pageFor(folder: string, path: string): Promise<string> {
  const page = await readFile(join(folder, 'index.html'), 'utf8');
  const manifest = await readFile(join(folder, '.vite/manifest.json'), 'utf8').catch(() => '{}');
  const links = filesOf(JSON.parse(manifest) as Record<string, Built>, path)
    .filter((file) => !page.includes(file))
    .map((file) => `    <link rel="modulepreload" crossorigin href="/${file}">`);
  return links.length > 0 ? page.replace('</head>', () => `${links.join('\n')}\n  </head>`) : page;
}

/** The files of the view at an address, with those that they need; none where it is not known which view that is. */
export function filesOf(manifest: Readonly<Record<string, Built>>, path: string): string[] {
  const [first = '', ...more] = path.split('/').filter(Boolean);
  // A view within another, as the plans of a source, has files of its own.
  if (more.length > (first === 'assets' ? 1 : 0)) return [];
  const name = OTHERWISE[first] ?? first.charAt(0).toUpperCase() + first.slice(1);
  const view = Object.entries(manifest).find(([, built]) => built.isDynamicEntry && built.name === name);
  const found = new Map<string, string>();
  const add = (key: string) => {
    const built = manifest[key];
    if (!built || found.has(key)) return;
    found.set(key, built.file);
    for (const needed of built.imports ?? []) add(needed);
  };
  if (view) add(view[0]);
  return [...found.values()].filter((file) => file.endsWith('.js'));
}
