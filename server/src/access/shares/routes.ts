import { shareEndpoints } from '@idrel/contract/access';
import type { Router } from 'express';
import { serve } from '../../platform/api.ts';
import type { Context } from '../../platform/context.ts';
import { ApiProblem } from '../../platform/problems.ts';
import { connectorInput } from '../../sources/index.ts';
import type { Lines } from '../lines.ts';
import { listShares, readShare } from './read.ts';
import { answerShare, changeShare, endShare, offerShare, shareEffect } from './service.ts';
import { openShare, sharedOf, sharedTables, sharedWith, untilOver } from './theirs.ts';

/** @param lines how the answer to a statement is sent */
export function shareRoutes(router: Router, { db, config, signals }: Context, lines: Lines): void {
  serve(router, shareEndpoints.shares, ({ who }) => listShares(db, who));
  serve(router, shareEndpoints.shareEffect, ({ who, body }) => shareEffect(db, who, body));
  serve(router, shareEndpoints.share, ({ who, params }) => readShare(db, who, params.id));
  serve(router, shareEndpoints.offer, ({ who, body }) => db.transaction((tx) => offerShare(tx, who, body)));
  serve(router, shareEndpoints.changeShare, ({ who, params, body, version }) =>
    db.transaction((tx) => changeShare(tx, who, params.id, version, body)),
  );
  serve(router, shareEndpoints.endShare, ({ who, params, body }) =>
    db.transaction((tx) => endShare(tx, who, params.id, body.because)),
  );
  serve(router, shareEndpoints.shared, ({ who }) => sharedWith(db, who));
  serve(router, shareEndpoints.sharedTables, ({ who, params }) => sharedTables(db, who, params.id));
  serve(router, shareEndpoints.answerShare, async ({ who, params, body, version }) => {
    await db.transaction((tx) => answerShare(tx, who, params.id, version, body));
    return sharedOf(db, who, params.id);
  });
  serve(router, shareEndpoints.queryShared, async ({ who, params, body, response, left }) => {
    const share = await openShare(db, who, params.id);
    const over = new AbortController();
    const stop = untilOver(signals, share, who.id, () =>
      over.abort(
        new ApiProblem('gone', `What was shared as “${share.localName}” is not read any more, or was changed.`, {
          mend: 'Look at it again under “Shared with you”.',
        }),
      ),
    );
    try {
      const { sql, limit } = body;
      const reaching = connectorInput(db, config, share.source.id);
      reaching.catch(() => undefined); // told where it is waited for
      const asked = { who, source: share.source, sql, limit, purpose: null, reaching, share };
      await lines(asked, response, AbortSignal.any([left, over.signal]));
    } finally {
      stop();
    }
  });
}
