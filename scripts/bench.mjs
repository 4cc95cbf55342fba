import { writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { checkNode, ensureBuild, ensurePackages, ROOT } from './lib/house.mjs';
import { say } from './lib/say.mjs';
import { ensureChromium } from './lib/system.mjs';

// npm run bench: all benchmarks, on a cluster of their own; writes docs/benchmarks.md. npm run bench -- scan: only that one, nothing is written.
checkNode();
ensurePackages();
ensureBuild();
ensureChromium();
const only = process.argv[2];
const home = join(ROOT, '.idrel-bench');
const { startIdrel } = await import('./lib/idrel.mjs');
const { removeHome } = await import('./lib/cluster.mjs');
await removeHome(home, 56780);
const idrel = await startIdrel({ home, databasePort: 56780, webPort: 6780, quiet: true });
const admin = idrel.cluster.url('postgres');
const lines = [];
try {
  for (const [name, argument] of [
    ['firstPage', ROOT],
    ['lineage', admin],
    ['recognition'],
    ['classify'],
    ['files'],
    ['scan', admin],
    ['realScan', admin],
    ['profile', admin],
    ['gateway', admin],
    ['decisions'],
    ['statements', admin],
    ['attempts', admin],
    ['laidOut', admin],
    ['attacks', admin],
    ['judged', admin],
    ['million', admin],
    ['glossary', admin],
    ['closure', admin],
    ['past', admin],
    ['events', admin],
    ['lines', admin],
    ['picture'],
    ['largePicture', admin],
  ]) {
    if (only && only !== name) continue;
    const { run } = await import(`../bench/${name}.mjs`);
    lines.push(await run(argument, idrel.address));
  }
} finally {
  await idrel.stop();
  await removeHome(home, 56780);
}
if (!only) {
  writeFileSync(
    join(ROOT, 'docs/benchmarks.md'),
    `# Benchmarks

Made by \`npm run bench\` on ${new Date().toISOString().slice(0, 10)}: ${cpus().length} processors (${cpus()[0]?.model.trim()}), Node ${process.versions.node}. Each row times two things in turn, in one run, after a round that does not count; medians, with least and most in brackets. Machines are noisy: read the ratios. \`npm run bench -- scan\` runs one of them (firstPage, lineage, recognition, classify, files, scan, realScan, profile, gateway, decisions, statements, attempts, laidOut, attacks, judged, million, glossary, closure, past, events, lines, picture, largePicture).

| what | measured | reference | ratio | goal |
|---|---|---|---|---|
${lines.join('\n')}

What each one does stands at the head of its file in \`bench/\`.
`,
  );
  say('Written to docs/benchmarks.md.');
}
process.exit(0);
