import { INCLUDES, type Role } from '@idrel/core/people';
import { list, nullable, number, type Of, oneOf, shape, text } from '../http/index.ts';

export type { Role } from '@idrel/core/people';
/** From the least to the greatest. */
export const ROLES = Object.keys(INCLUDES) as Role[];

export const PersonBrief = shape({ id: text, name: text, job: text });
export type PersonBrief = Of<typeof PersonBrief>;
export const Grant = shape({ role: oneOf(ROLES), domain: nullable(text) });
export type Grant = Of<typeof Grant>;
export const GroupAnswer = shape({
  id: text,
  name: text,
  claim: nullable(text).description(
    'What the identity provider calls it: whoever signs in there is in the group, or is not, as it says.',
  ),
  partner: nullable(text).description('The partner organisation whose people they are; nobody else is in that group.'),
  members: list(text),
  version: number,
});
export type GroupAnswer = Of<typeof GroupAnswer>;
