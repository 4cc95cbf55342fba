import { judgeAll, precision, recall } from '/work/main/bench/quality.mjs';

const part = process.argv[2];
const show = Number(process.argv[3] ?? 40);
for (const t of judgeAll().filter((x) => !part || x.part === part)) {
  console.log(t.part, t.way, t.columns, 'P', precision(t.total).toFixed(4), 'R', recall(t.total).toFixed(4), JSON.stringify(t.total));
  if (part && t.part !== part) continue;
  for (const [k, c] of [...t.classes].sort()) if (precision(c) < 0.9 || recall(c) < 0.9) console.log('   ', k, 'P', precision(c).toFixed(2), 'R', recall(c).toFixed(2), JSON.stringify(c));
  for (const m of t.mistakes.slice(0, show))
    console.log('     ', m.what, m.key, '|', m.name, '|', m.column.id, m.column.shape, m.column.type, m.column.values.slice(0, 3).join(' ; ').slice(0, 90), m.found?.join(',') ?? '');
}
