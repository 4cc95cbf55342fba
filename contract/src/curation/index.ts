import { STANDINGS } from '@idrel/core/catalog';
import { endpoint, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

export interface AssetChange {
  description?: string | null;
  standing?: string;
  ownerIds?: string[];
  stewardIds?: string[];
  termIds?: string[];
  level?: number | null;
  levelReason?: string | null;
}

export const curationEndpoints = {
  edit: endpoint({
    id: 'editAsset',
    method: 'patch',
    path: '/assets/:id',
    area: 'curation',
    summary: 'Edit what people say of an asset',
    rights: 'editor in its domain; steward for standing and level',
    params: idParam,
    body: Joi.object({
      description: Joi.string().trim().allow('', null).max(20_000),
      standing: Joi.string().valid(...STANDINGS),
      ownerIds: Joi.array().items(id).max(20).unique(),
      stewardIds: Joi.array().items(id).max(20).unique(),
      termIds: Joi.array().items(id).max(50).unique(),
      level: Joi.number().integer().min(1).max(4).allow(null),
      levelReason: Joi.string().trim().allow('', null).max(1000),
    }).min(1),
    answers:
      'The asset as it is now. Send If-Match with the version you saw: 412 says what somebody else changed since.',
  }),
};
