/** Checked on what the compiler wrote, since the checker does not read this version of TypeScript; the compiler's project references keep types to the same floors.
 * The floors of the house, and the doors of its rooms (docs/architecture.md). */
const only = (floor, allowed) => ({
  name: `floor-${floor}`,
  severity: 'error',
  comment: `${floor} may import ${allowed.length > 0 ? allowed.join(', ') : 'nothing of ours'}.`,
  from: { path: `^${floor}/dist(-types)?/` },
  to: {
    path: '^(core|contract|client|readers|server|web|cli|standins|demo)/',
    pathNot: `^(${[floor, ...allowed].join('|')})/`,
  },
});
const AREAS =
  'sources|scanning|recognition|catalog|curation|glossary|lineage|access|routines|coverage|exchange|worklist|people|journal|writing';
const WEB_AREAS = `${AREAS.replace('exchange|', '')}|settings`;

module.exports = {
  forbidden: [
    only('core', []),
    only('contract', ['core']),
    only('client', ['contract', 'core']),
    only('readers', ['core', 'contract']),
    only('server', ['contract', 'core', 'readers']),
    only('web', ['contract', 'core']),
    only('cli', ['client', 'contract', 'core', 'readers']),
    only('standins', ['contract']),
    only('demo', ['contract', 'core']),
    {
      name: 'doors-of-the-server',
      severity: 'error',
      comment: 'Areas of the server reach each other through their index.ts only.',
      from: { path: `^server/dist/(${AREAS})/` },
      to: {
        path: `^server/dist/(${AREAS})/.+`,
        pathNot: [`^server/dist/$1/`, `^server/dist/[^/]+/index\\.js$`],
      },
    },
    {
      name: 'doors-of-the-core',
      severity: 'error',
      comment: 'Areas of the core reach each other through their index.ts only.',
      from: { path: '^core/dist/([^/]+)/' },
      to: {
        path: '^core/dist/[^/]+/.+',
        pathNot: ['^core/dist/$1/', '^core/dist/[^/]+/index\\.js$'],
      },
    },
    {
      name: 'doors-of-the-web',
      severity: 'error',
      comment: 'Areas of the web, and the shell around them, reach areas through their index.ts only.',
      from: { path: `^web/dist-types/(${WEB_AREAS}|shell)/` },
      to: {
        path: `^web/dist-types/(${WEB_AREAS})/.+`,
        pathNot: ['^web/dist-types/$1/', '^web/dist-types/[^/]+/index\\.js$'],
      },
    },
    {
      name: 'areas-of-the-web-rest-on-what-they-share',
      severity: 'error',
      comment: 'Marks, forms and what the application shares know no area; its routes alone load their pages.',
      from: { path: '^web/dist-types/(app|marks|forms|theme)/', pathNot: '^web/dist-types/app/routes\\.js$' },
      to: { path: `^web/dist-types/(${WEB_AREAS})/` },
    },
    {
      name: 'core-computes-only',
      severity: 'error',
      comment: 'No network, database or interface in the core.',
      from: { path: '^core/dist', pathNot: '\\.test\\.js$' },
      to: { path: 'node_modules/(express|pg|sequelize|react|@duckdb)/|^(http|https|net|fs|child_process)$' },
    },
    {
      name: 'no-circles',
      severity: 'error',
      comment: 'A circle of imports has no floor.',
      from: {},
      to: { circular: true },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    enhancedResolveOptions: {
      conditionNames: ['import', 'require', 'node', 'default'],
      exportsFields: ['exports'],
      extensions: ['.ts', '.tsx', '.js', '.mjs', '.json'],
    },
  },
};
