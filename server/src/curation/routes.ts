import {
  curationEndpoints,
  drawnEndpoints,
  manyEndpoints,
  noticeEndpoints,
  priorityEndpoints,
  SHEET_MOST,
  sheetEndpoints,
  standingEndpoints,
  suggestionEndpoints,
  tagEndpoints,
  ticketEndpoints,
} from '@idrel/contract/curation';
import { lineageEndpoints } from '@idrel/contract/lineage';
import type { Router } from 'express';
import { chosenBy, type WithFinder } from '../catalog/index.ts';
import { serve } from '../platform/api.ts';
import { threads } from '../platform/threads.ts';
import {
  cancelBulkEdit,
  getBulkEdit,
  listBulkEdits,
  prepareBulkEdit,
  startBulkEdit,
  undoBulkEdit,
} from './bulkEdits.ts';
import { drawAsset, takeDrawnAway } from './drawn.ts';
import { addNotice, bringBackNotice, changeNotice, listNotices, removeNotice } from './notices.ts';
import {
  addPriorityRule,
  changePriorityRule,
  listPriorityRules,
  previewPriorityRule,
  removePriorityRule,
} from './priority.ts';
import { putBack } from './putBack.ts';
import { describeMany, editAsset, knowAsset } from './service.ts';
import { mustFit, takeSheet, writeAssets, writeImpact } from './sheets.ts';
import { changeChecklist, getStanding, listChecklists, noteLapse } from './standing.ts';
import { listSuggestions, refuseSuggestions, takeSuggestions } from './suggestions.ts';
import { addTag, bringBackTag, changeTag, listTags, mergeTag, previewMerge, removeTag } from './tags.ts';
import { previewTagTravel, refuseTag } from './tagTravel.ts';
import { listTickets, openAgain, openTicket, ticketTold } from './tickets.ts';

export function curationRoutes(router: Router, { db, finder, config }: WithFinder): void {
  serve(router, ticketEndpoints.list, ({ who, params }) => listTickets(db, config, who, params.id));
  serve(router, ticketEndpoints.open, ({ who, params, body }) =>
    db.transaction((tx) => openTicket(tx, config, who, params.id, body)),
  );
  serve(router, ticketEndpoints.again, ({ who, params }) =>
    db.transaction((tx) => openAgain(tx, config, who, params.id)),
  );
  serve(router, ticketEndpoints.told, ({ body }) => db.transaction((tx) => ticketTold(tx, body)));
  serve(router, curationEndpoints.edit, ({ who, params, body, version }) =>
    db.transaction((tx) => editAsset(tx, who, params.id, version, body)),
  );
  serve(router, drawnEndpoints.draw, ({ who, body }) => db.transaction((tx) => drawAsset(tx, who, body)));
  serve(router, drawnEndpoints.takeAway, ({ who, params }) =>
    db.transaction((tx) => takeDrawnAway(tx, who, params.id)),
  );
  serve(router, curationEndpoints.know, ({ who, params, body }) =>
    db.transaction((tx) => knowAsset(tx, who, params.id, body.knows)),
  );
  serve(router, curationEndpoints.describeMany, ({ who, body }) =>
    db.transaction((tx) => describeMany(tx, who, body.texts)),
  );
  serve(router, curationEndpoints.putBack, ({ who, params, body, version }) =>
    db.transaction((tx) => putBack(tx, who, params.id, version, body)),
  );
  serve(router, suggestionEndpoints.list, ({ who, params }) => listSuggestions(db, who, params.id));
  serve(router, suggestionEndpoints.take, ({ who, body }) =>
    db.transaction((tx) => takeSuggestions(tx, who, body.items, body.taken)),
  );
  serve(router, suggestionEndpoints.refuse, ({ who, body }) =>
    db.transaction((tx) => refuseSuggestions(tx, who, body.items, body.refused)),
  );
  serve(router, standingEndpoints.standing, ({ who, params }) => getStanding(db, who, params.id));
  serve(router, standingEndpoints.noted, ({ who, params, body }) =>
    db.transaction((tx) => noteLapse(tx, who, params.id, body.noted)),
  );
  serve(router, standingEndpoints.checklists, ({ who }) => listChecklists(db, who));
  serve(router, standingEndpoints.changeChecklist, ({ who, params, body, version }) =>
    db.transaction((tx) => changeChecklist(tx, who, params.kind, version, body)),
  );
  serve(router, sheetEndpoints.out, async ({ who, query, left }) => {
    const ids = await chosenBy(finder, who, query, SHEET_MOST.out + 1);
    mustFit(ids);
    const task = { ids, format: query.format, whoId: who.id };
    return threads()?.('writeSheet', task, who.id, left) ?? writeAssets(db, who, ids, query.format);
  });
  serve(router, lineageEndpoints.impactSheet, ({ who, query }) => writeImpact(db, who, query));
  serve(router, sheetEndpoints.back, ({ who, query, body }) => takeSheet(db, who, body, query.preview));
  serve(router, noticeEndpoints.list, ({ who, params }) => listNotices(db, who, params.id));
  serve(router, noticeEndpoints.create, ({ who, params, body }) =>
    db.transaction((tx) => addNotice(tx, who, params.id, body)),
  );
  serve(router, noticeEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changeNotice(tx, who, params.id, version, body)),
  );
  serve(router, noticeEndpoints.remove, ({ who, params }) => db.transaction((tx) => removeNotice(tx, who, params.id)));
  serve(router, noticeEndpoints.bringBack, ({ who, params }) =>
    db.transaction((tx) => bringBackNotice(tx, who, params.id)),
  );
  serve(router, priorityEndpoints.list, ({ who }) => listPriorityRules(db, who));
  serve(router, priorityEndpoints.create, ({ who, body }) => db.transaction((tx) => addPriorityRule(tx, who, body)));
  serve(router, priorityEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changePriorityRule(tx, who, params.id, version, body)),
  );
  serve(router, priorityEndpoints.remove, ({ who, params }) =>
    db.transaction((tx) => removePriorityRule(tx, who, params.id)),
  );
  serve(router, priorityEndpoints.preview, ({ who, body }) => previewPriorityRule(db, who, body.rule, body.id));
  serve(router, tagEndpoints.list, ({ who }) => listTags(db, who));
  serve(router, tagEndpoints.create, ({ who, body }) => db.transaction((tx) => addTag(tx, who, body)));
  serve(router, tagEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changeTag(tx, who, params.id, version, body)),
  );
  serve(router, tagEndpoints.remove, ({ who, params }) => db.transaction((tx) => removeTag(tx, who, params.id)));
  serve(router, tagEndpoints.bringBack, ({ who, params }) => db.transaction((tx) => bringBackTag(tx, who, params.id)));
  serve(router, tagEndpoints.previewTravel, ({ who, params, body }) => previewTagTravel(db, who, params.id, body));
  serve(router, tagEndpoints.refuse, ({ who, params, body }) =>
    db.transaction((tx) => refuseTag(tx, who, params.id, params.tag, body.refused)),
  );
  serve(router, tagEndpoints.mergePreview, ({ who, params, query }) => previewMerge(db, who, params.id, query.into));
  serve(router, tagEndpoints.merge, ({ who, params, body }) =>
    db.transaction((tx) => mergeTag(tx, who, params.id, body.into, body.assets)),
  );
  serve(router, manyEndpoints.prepare, ({ who, body }) => prepareBulkEdit(db, finder, who, body.choice, body.action));
  serve(router, manyEndpoints.mine, ({ who }) => listBulkEdits(db, who));
  serve(router, manyEndpoints.one, ({ who, params }) => getBulkEdit(db, who, params.id));
  serve(router, manyEndpoints.start, ({ who, params }) => db.transaction((tx) => startBulkEdit(tx, who, params.id)));
  serve(router, manyEndpoints.cancel, ({ who, params }) => db.transaction((tx) => cancelBulkEdit(tx, who, params.id)));
  serve(router, manyEndpoints.undo, ({ who, params }) => db.transaction((tx) => undoBulkEdit(tx, who, params.id)));
}
