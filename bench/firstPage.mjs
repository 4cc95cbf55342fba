import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';

/** Compressed JavaScript that the first page (the worklist) loads before anybody does anything. Goal: at most 300 kB. */
export async function run(root) {
  const dist = join(root, 'web/dist');
  const seen = new Set();
  const follow = (file) => {
    if (seen.has(file)) return;
    seen.add(file);
    // Static imports only: what import() names is loaded when it is opened.
    for (const [, name] of readFileSync(join(dist, 'assets', file), 'utf8').matchAll(/(?:^|[;}\s])(?:import|export)\s*(?:[^'"()]*?from\s*)?["']\.\/([^"']+\.js)["']/g)) follow(name);
  };
  for (const [, name] of readFileSync(join(dist, 'index.html'), 'utf8').matchAll(/(?:src|href)="\/assets\/([^"]+\.js)"/g)) follow(name);
  const view = [
    ...readFileSync(
      join(
        dist,
        'assets',
        [...seen].find((file) => file.startsWith('index-')),
      ),
      'utf8',
    ).matchAll(/\.\/(Worklist-[^"']+\.js)/g),
  ][0]?.[1];
  if (!view) throw new Error('the chunk of the worklist was not found');
  follow(view);
  const size = [...seen].reduce((sum, file) => sum + gzipSync(readFileSync(join(dist, 'assets', file)), { level: 9 }).length, 0);
  const line = `| JavaScript of the first page, compressed | ${Math.round(size / 1000)} kB in ${seen.size} files | – | – | at most 300 kB |`;
  process.stdout.write(`${line}\n`);
  return line;
}
