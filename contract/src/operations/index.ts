import { accessEndpoints } from '../access/index.ts';
import { addressEndpoints, catalogEndpoints, searchEndpoints } from '../catalog/index.ts';
import { coverageEndpoints } from '../coverage/index.ts';
import {
  curationEndpoints,
  drawnEndpoints,
  manyEndpoints,
  noticeEndpoints,
  priorityEndpoints,
  sheetEndpoints,
  standingEndpoints,
  suggestionEndpoints,
  tagEndpoints,
  ticketEndpoints,
} from '../curation/index.ts';
import {
  chatEndpoints,
  describedEndpoints,
  eventEndpoints,
  lineEndpoints,
  newsEndpoints,
  webhookEndpoints,
} from '../exchange/index.ts';
import { exchangeEndpoints, schemeEndpoints, termEndpoints } from '../glossary/index.ts';
import type { Endpoint } from '../http/index.ts';
import { journalEndpoints } from '../journal/index.ts';
import {
  causeEndpoints,
  keptViewEndpoints,
  lineageEndpoints,
  proposedEndpoints,
  saidEndpoints,
  statementEndpoints,
} from '../lineage/index.ts';
import {
  apiKeyEndpoints,
  clientKeyEndpoints,
  directoryEndpoints,
  domainEndpoints,
  manageEndpoints,
  openSessionEndpoints,
  partnerEndpoints,
  peopleEndpoints,
  signInEndpoints,
} from '../people/index.ts';
import { recognitionEndpoints } from '../recognition/index.ts';
import { routineEndpoints } from '../routines/index.ts';
import { agentEndpoints, planEndpoints, runEventEndpoints, scanEndpoints } from '../scanning/index.ts';
import { pushEndpoints, sourceEndpoints } from '../sources/index.ts';
import { worklistEndpoints } from '../worklist/index.ts';
import { discussionEndpoints, guideEndpoints } from '../writing/index.ts';

/** Every operation of the API, in groups as they belong together. */
export const OPERATIONS = {
  people: peopleEndpoints,
  manage: manageEndpoints,
  openSession: openSessionEndpoints,
  apiKey: apiKeyEndpoints,
  clientKey: clientKeyEndpoints,
  signIn: signInEndpoints,
  directory: directoryEndpoints,
  partner: partnerEndpoints,
  domain: domainEndpoints,
  source: sourceEndpoints,
  plan: planEndpoints,
  scan: scanEndpoints,
  push: pushEndpoints,
  agent: agentEndpoints,
  runEvent: runEventEndpoints,
  recognition: recognitionEndpoints,
  catalog: catalogEndpoints,
  search: searchEndpoints,
  address: addressEndpoints,
  curation: curationEndpoints,
  drawn: drawnEndpoints,
  tag: tagEndpoints,
  ticket: ticketEndpoints,
  notice: noticeEndpoints,
  priority: priorityEndpoints,
  standing: standingEndpoints,
  suggestion: suggestionEndpoints,
  sheet: sheetEndpoints,
  many: manyEndpoints,
  guide: guideEndpoints,
  discussion: discussionEndpoints,
  scheme: schemeEndpoints,
  term: termEndpoints,
  exchange: exchangeEndpoints,
  lineage: lineageEndpoints,
  said: saidEndpoints,
  keptView: keptViewEndpoints,
  cause: causeEndpoints,
  proposed: proposedEndpoints,
  statement: statementEndpoints,
  access: accessEndpoints,
  journal: journalEndpoints,
  event: eventEndpoints,
  described: describedEndpoints,
  webhook: webhookEndpoints,
  news: newsEndpoints,
  chat: chatEndpoints,
  line: lineEndpoints,
  worklist: worklistEndpoints,
  coverage: coverageEndpoints,
  routine: routineEndpoints,
} as const satisfies Readonly<Record<string, Readonly<Record<string, Endpoint>>>>;

/** All of them. */
export const ENDPOINTS: readonly Endpoint[] = Object.values(OPERATIONS).flatMap((group): Endpoint[] =>
  Object.values(group),
);
