import { createRequire } from 'node:module';

/** PostgreSQL's parser by itself, as the core uses it. */
export async function parseAlone() {
  const own = createRequire(new URL('../core/package.json', import.meta.url));
  const { loadModule, parseSync } = own('libpg-query');
  await loadModule();
  return (sql) => void parseSync(sql);
}
