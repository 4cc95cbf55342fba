import { discussionEndpoints, guideEndpoints } from '@idrel/contract/writing';
import type { Router } from 'express';
import type { WithFinder } from '../catalog/index.ts';
import { serve } from '../platform/api.ts';
import { ONLY_SHOWN } from '../platform/images.ts';
import {
  addRemark,
  beginDiscussion,
  changeRemark,
  listDiscussions,
  noteDiscussion,
  settleDiscussion,
  takeRemark,
} from './discussions.ts';
import { changeTemplate, getGuide, listTemplates, listVersions, saveGuide, writersHere } from './guides.ts';
import { mentionable } from './mentions.ts';
import { addPicture, pictureBytes } from './pictures.ts';

export function writingRoutes(router: Router, { db, finder }: WithFinder): void {
  serve(router, guideEndpoints.guide, ({ who, params }) => getGuide(db, who, params.id));
  serve(router, guideEndpoints.save, ({ who, params, body, version }) =>
    db.transaction((tx) => saveGuide(tx, who, params.id, version, body.text)),
  );
  serve(router, guideEndpoints.versions, ({ who, params }) => listVersions(db, who, params.id));
  serve(router, guideEndpoints.version, ({ who, params }) => getGuide(db, who, params.id, params.version));
  serve(router, guideEndpoints.here, ({ who, params, body }) =>
    db.transaction((tx) => writersHere(tx, who, params.id, body.writing)),
  );
  serve(router, guideEndpoints.mentionable, ({ who, query }) => mentionable(db, finder, who, query.q));
  serve(router, guideEndpoints.addPicture, ({ who, params, body }) =>
    db.transaction((tx) => addPicture(tx, who, params.id, body.content)),
  );
  serve(router, guideEndpoints.picture, async ({ who, params, response }) => {
    const { type, bytes } = await pictureBytes(db, who, params.id);
    response.set(ONLY_SHOWN).set('cache-control', 'private, max-age=86400, immutable').type(type).send(bytes);
  });
  serve(router, guideEndpoints.templates, () => listTemplates(db));
  serve(router, guideEndpoints.changeTemplate, ({ who, params, body, version }) =>
    db.transaction((tx) => changeTemplate(tx, who, params.kind, version, body.text)),
  );
  serve(router, discussionEndpoints.list, ({ who, params, query }) =>
    listDiscussions(db, who, params.id, query.settled),
  );
  serve(router, discussionEndpoints.begin, ({ who, params, body }) =>
    db.transaction((tx) => beginDiscussion(tx, who, params.id, body)),
  );
  serve(router, discussionEndpoints.remark, ({ who, params, body }) =>
    db.transaction((tx) => addRemark(tx, who, params.id, body.text)),
  );
  serve(router, discussionEndpoints.changeRemark, ({ who, params, body, version }) =>
    db.transaction((tx) => changeRemark(tx, who, params.id, version, body.text)),
  );
  serve(router, discussionEndpoints.removeRemark, async ({ who, params }) => {
    await db.transaction((tx) => takeRemark(tx, who, params.id, true));
  });
  serve(router, discussionEndpoints.bringBackRemark, ({ who, params }) =>
    db.transaction((tx) => takeRemark(tx, who, params.id, false)),
  );
  serve(router, discussionEndpoints.settle, ({ who, params, body, version }) =>
    db.transaction((tx) => settleDiscussion(tx, who, params.id, version, body)),
  );
  serve(router, discussionEndpoints.noted, ({ who, params, body }) =>
    db.transaction((tx) => noteDiscussion(tx, who, params.id, body.noted)),
  );
}
