import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange, PUT_BACK } from '@idrel/contract/curation';
import type { JournalEntry } from '@idrel/contract/journal';
import { sayDone, sayProblem } from '../app/say.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { Trouble } from '../marks/states.tsx';
import { useEditAssetMutation, usePutBackMutation } from './api.ts';

type Field = (typeof PUT_BACK)[number];
const ids = (list: readonly { id: string }[]) => list.map(({ id }) => id);
/** What can be put back by itself, and the edit that takes that back again. */
const FIELDS: Readonly<Record<Field, (asset: AssetAnswer) => AssetChange>> = {
  description: ({ description }) => ({ description }),
  standing: ({ standing }) => ({ standing }),
  owners: ({ owners }) => ({ ownerIds: ids(owners) }),
  stewards: ({ stewards }) => ({ stewardIds: ids(stewards) }),
  custodians: ({ custodians }) => ({ custodianIds: ids(custodians) }),
  terms: ({ terms }) => ({ termIds: ids(terms) }),
  tags: ({ tags }) => ({ tags: tags.map(({ id, value }) => ({ id, value })) }),
  priority: ({ priorityFacts: { stated, reason } }) => ({
    priority: stated,
    ...(stated === null ? {} : { priorityReason: reason }),
  }),
  level: ({ levelSet, levelReason }) => ({ level: levelSet, ...(levelSet === null ? {} : { levelReason }) }),
};
const isField = (field: string): field is Field => Object.hasOwn(FIELDS, field);

/** The history of an asset; what somebody changed of it is put back from there, each thing by itself. */
export function Journal({ asset }: { asset: AssetAnswer }) {
  const { data, error } = useJournalQuery(asset.id);
  const [putBack, { isLoading }] = usePutBackMutation();
  const [edit] = useEditAssetMutation();
  if (error) return <Trouble error={error} what="The history cannot be shown" />;
  const put = (entry: JournalEntry, field: Field) => {
    const { id, version } = asset;
    putBack({ id, version, body: { entry: entry.id, field } })
      .unwrap()
      .then(
        (after) =>
          sayDone(`The ${field} is as it was before.`, () =>
            edit({ id, version: after.version, change: FIELDS[field](asset) }),
          ),
        (failed: unknown) => sayProblem(failed, 'It was not put back'),
      );
  };
  return (
    <History
      entries={data ?? []}
      beside={(entry, field) =>
        asset.mayEdit && entry.before && isField(field) ? (
          <>
            {' '}
            <button
              type="button"
              className="linkish put-back"
              disabled={isLoading}
              aria-label={`Put back the ${field} as it was before`}
              onClick={() => put(entry, field)}
            >
              Put back
            </button>
          </>
        ) : null
      }
    />
  );
}
