import { describeKind, SOURCE_KINDS, sourceEndpoints } from '@idrel/contract/sources';
import type { Router } from 'express';
import { record } from '../journal/index.ts';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { conflict } from '../platform/problems.ts';
import { encrypt } from '../platform/secrets.ts';
import { changeSource, getSource, listSources, registerSource, removeSource, testSource } from './service.ts';

const CREDENTIALS = `select c.id, c.name, c.username, coalesce(array_agg(s.name order by s.name) filter (where s.id is not null), '{}') as "usedBy"
  from credential c left join source s on s.credential_id = c.id and s.domain_id = any($1::uuid[])`;

export function sourceRoutes(router: Router, { db, config }: Context): void {
  serve(router, sourceEndpoints.kinds, async () => SOURCE_KINDS.map(describeKind));
  serve(router, sourceEndpoints.list, ({ who }) => listSources(db, who));
  serve(router, sourceEndpoints.get, ({ who, params }) => getSource(db, who, params.id ?? ''));
  serve(router, sourceEndpoints.register, ({ who, body }) => db.transaction((tx) => registerSource(db, tx, config, who, body)));
  serve(router, sourceEndpoints.change, ({ who, params, body, version }) => db.transaction((tx) => changeSource(tx, config, who, params.id ?? '', version, body)));
  serve(router, sourceEndpoints.remove, ({ who, params, query }) => db.transaction((tx) => removeSource(tx, who, params.id ?? '', Number(query.assets))));
  serve(router, sourceEndpoints.test, ({ who, params }) => testSource(db, config, who, params.id ?? ''));
  serve(router, sourceEndpoints.credentials, ({ who }) => {
    who.mustAnywhere('source administrator');
    return db.rows(`${CREDENTIALS} group by c.id order by c.name`, [who.domainsAs('reader')]);
  });
  serve(router, sourceEndpoints.addCredential, ({ who, body }) => {
    who.mustAnywhere('source administrator');
    return db.transaction(async (tx) => {
      const [row] = await tx.rows<{ id: string }>('insert into credential (name, username, secret, created_by) values ($1, $2, $3, $4) on conflict (name) do nothing returning id', [
        body.name,
        body.username,
        encrypt(config.key, String(body.password)),
        who.id,
      ]);
      if (!row) throw conflict('name-taken', `There already is a credential named “${String(body.name)}”.`, 'Choose another name.');
      await record(tx, who.id, 'stored', { kind: 'credential', id: row.id, name: String(body.name), domainId: null }, null, { name: body.name, username: body.username });
      return tx.one(`${CREDENTIALS} where c.id = $2 group by c.id`, [who.domainsAs('reader'), row.id]);
    });
  });
}
