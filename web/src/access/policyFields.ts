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
/** What is edited of a policy. */
export const bodyOf = (policy: PolicyBody): PolicyBody =>
  Object.fromEntries(
    Object.keys(FRESH).map((field) => [field, policy[field as keyof PolicyBody]]),
  ) as unknown as PolicyBody;
