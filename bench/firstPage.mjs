import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';

/** Compressed JavaScript that the first page (the worklist) loads before anybody does anything. Goal: at most 300 kB. */
export async function run(root) {
  const dist = join(root, 'web/dist');
  const manifest = JSON.parse(readFileSync(join(dist, '.vite/manifest.json'), 'utf8'));
  const seen = new Set();
  // Static imports only: what import() names is loaded when it is opened.
  const follow = (key) => {
    const { file, imports = [] } = manifest[key];
    if (seen.has(file)) return;
    seen.add(file);
    for (const imported of imports) follow(imported);
  };
  follow('index.html');
  follow('src/worklist/Worklist.tsx');
  const size = [...seen].reduce((sum, file) => sum + gzipSync(readFileSync(join(dist, file)), { level: 9 }).length, 0);
  const line = `| JavaScript of the first page, compressed | ${Math.round(size / 1000)} kB in ${seen.size} files | – | – | at most 300 kB |`;
  process.stdout.write(`${line}\n`);
  return line;
}
