#!/usr/bin/env node
import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync, statSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

// The command is written in TypeScript. After `npm ci` nothing is compiled yet, and after an update the compiled files are old: then they are made.
const root = resolve(dirname(fileURLToPath(import.meta.url)), '../..');
const main = join(root, 'cli/dist/main.js');
const newest = (folder) =>
  readdirSync(folder, { recursive: true, withFileTypes: true }).reduce(
    (latest, entry) =>
      entry.isFile() ? Math.max(latest, statSync(join(entry.parentPath ?? entry.path, entry.name)).mtimeMs) : latest,
    0,
  );
const sources = ['core', 'contract', 'readers', 'cli'].map((name) => join(root, name, 'src'));
const stamp = join(root, 'cli/dist/.tsbuildinfo');
if (
  sources.every((folder) => existsSync(folder)) &&
  (!existsSync(main) || Math.max(...sources.map(newest)) > statSync(stamp).mtimeMs)
) {
  const built = spawnSync(process.execPath, [join(root, 'node_modules/typescript/bin/tsc'), '-b', join(root, 'cli')], {
    encoding: 'utf8',
  });
  if (built.status !== 0) {
    process.stderr.write(`idrel could not be compiled:\n${built.stdout}${built.stderr}`);
    process.exit(1);
  }
}
await import(pathToFileURL(main).href);
