import { describeKind, SOURCE_KINDS, sourceEndpoints } from '@idrel/contract/sources';
import type { Router } from 'express';
import type { WithFinder } from '../catalog/index.ts';
import { moveEffect } from '../people/index.ts';
import { serve } from '../platform/api.ts';
import { forbidden } from '../platform/problems.ts';
import { addCredential, listCredentials, removeCredential, rotateCredential } from './credentials.ts';
import { changeSource, getSource, listSources, registerSource, removeSource } from './service.ts';

/** They change with the version alone. */
const KINDS_TOLD = SOURCE_KINDS.map(describeKind);

export function sourceRoutes(router: Router, { db, config, finder }: WithFinder): void {
  serve(router, sourceEndpoints.kinds, async () => KINDS_TOLD);
  serve(router, sourceEndpoints.list, ({ who }) => listSources(db, finder, who));
  serve(router, sourceEndpoints.get, ({ who, params }) => getSource(db, finder, who, params.id));
  serve(router, sourceEndpoints.register, ({ who, body }) =>
    db.transaction((tx) => registerSource(db, tx, finder, config, who, body)),
  );
  serve(router, sourceEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changeSource(tx, finder, config, who, params.id, version, body)),
  );
  serve(router, sourceEndpoints.moveEffect, async ({ who, params, query }) => {
    const { domainId, mayScan } = await getSource(db, finder, who, params.id);
    if (!mayScan) throw forbidden('source administrator in its domain');
    return moveEffect(db, domainId, query.to);
  });
  serve(router, sourceEndpoints.remove, ({ who, params, query }) =>
    db.transaction((tx) => removeSource(tx, who, params.id, query.assets)),
  );
  serve(router, sourceEndpoints.credentials, ({ who }) => listCredentials(db, who));
  serve(router, sourceEndpoints.addCredential, ({ who, body }) =>
    db.transaction((tx) => addCredential(tx, config, who, body)),
  );
  serve(router, sourceEndpoints.rotateCredential, ({ who, params, body, version }) =>
    db.transaction((tx) => rotateCredential(tx, config, who, params.id, version, body)),
  );
  serve(router, sourceEndpoints.removeCredential, ({ who, params }) =>
    db.transaction((tx) => removeCredential(tx, who, params.id)),
  );
}
