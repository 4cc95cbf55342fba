import type { PolicyBody } from '@idrel/contract/access';

export const FRESH: PolicyBody = {
  name: '',
  effect: 'allow',
  everyone: false,
  groupIds: [],
  personIds: [],
  exceptGroupIds: [],
  assetIds: [],
  classKeys: [],
  filter: null,
  carried: false,
  columns: null,
  columnsBut: false,
  mask: null,
  rows: null,
  until: null,
  hours: null,
  purposes: [],
  opens: 'read',
  passesOn: false,
  enabled: true,
};
/**
 * A policy as it is sent: one that only lets be seen says whom, which assets and until when. What was chosen beside that stays in the form, for who chooses anew.
 */
export const asSent = (draft: PolicyBody): PolicyBody =>
  draft.effect === 'allow' && draft.opens === 'see'
    ? {
        ...draft,
        classKeys: [],
        filter: null,
        columns: null,
        columnsBut: false,
        hours: null,
        purposes: [],
        passesOn: false,
      }
    : draft;

/** How far an allow opens, as it stands before what it opens. */
export const OPENS: Readonly<Record<PolicyBody['opens'], string>> = {
  read: 'to read',
  preview: 'to be shown a few rows of',
  see: 'to see the pages of',
};

/** What is edited of a policy. */
export const bodyOf = (policy: PolicyBody): PolicyBody =>
  Object.fromEntries(
    Object.keys(FRESH).map((field) => [field, policy[field as keyof PolicyBody]]),
  ) as unknown as PolicyBody;
