import type { ShareAnswer } from '@idrel/contract/access';
import { Button, Group, SegmentedControl, Stack } from '@mantine/core';
import { useAddress } from '../app/address.ts';
import { useKeys } from '../app/keys.tsx';
import { Beside, Choice, Note } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { lastDay } from './Conditions.tsx';
import { Partners } from './Partners.tsx';
import { ShareForm } from './ShareForm.tsx';
import { SharePane } from './SharePane.tsx';
import { usePartnersQuery, useSharesQuery } from './sharesApi.ts';

/** Where a share stands, in words. */
export const shareState = ({ state, heldBack, until, localName }: ShareAnswer): string =>
  heldBack
    ? 'held back'
    : state === 'accepted'
      ? `read as ${localName ?? ''}${until ? `, until ${lastDay(until)}` : ''}`
      : state === 'offered'
        ? 'waits for the partner'
        : state;

/** What is shared with partner organisations, and who they are. */
export function Shares() {
  const [params, put] = useAddress();
  const which = params.get('which') === 'partners' ? 'partners' : 'shares';
  const partners = usePartnersQuery();
  const offering = params.has('offer');
  useKeys('Shares', [{ key: 'n', what: 'offer a share', act: () => put({ offer: 'new', which: null }) }]);
  return (
    <Stack>
      <Group justify="space-between">
        <SegmentedControl
          aria-label="Shares or partners"
          value={which}
          onChange={(next) => put({ which: next === 'shares' ? null : next, share: null, offer: null, add: null })}
          data={[
            { value: 'shares', label: 'Shares' },
            { value: 'partners', label: 'Partner organisations' },
          ]}
        />
        {which === 'partners' ? (
          params.has('add') ? null : (
            <Button onClick={() => put({ add: 'new' })}>Add a partner</Button>
          )
        ) : offering || !partners.data?.length ? null : (
          <Button onClick={() => put({ offer: 'new' })}>Offer a share</Button>
        )}
      </Group>
      {which === 'partners' ? (
        <Partners adding={params.has('add')} add={(on) => put({ add: on ? 'new' : null })} />
      ) : partners.data?.length === 0 ? (
        <Empty title="No partner organisation yet">
          <p>
            A share offers tables to another organisation: on the columns and rows that you choose, read by its own
            people through the gateway, and ended at any time.{' '}
            <button type="button" className="linkish" onClick={() => put({ which: 'partners', add: 'new' })}>
              Add the first partner
            </button>
          </p>
        </Empty>
      ) : (
        <>
          {offering ? <ShareForm close={(id) => put({ offer: null, ...(id ? { share: id } : {}) })} /> : null}
          <List chosen={params.get('share')} choose={(share) => put({ share })} offer={() => put({ offer: 'new' })} />
        </>
      )}
    </Stack>
  );
}

function List({
  chosen,
  choose,
  offer,
}: {
  chosen: string | null;
  choose: (id: string | null) => void;
  offer: () => void;
}) {
  const { data, error, refetch } = useSharesQuery();
  const items = data ?? [];
  const shown = items.find(({ id }) => id === chosen) ?? (chosen ? undefined : items[0]);
  const at = items.findIndex(({ id }) => id === shown?.id);
  const move = (step: number) => choose(items[Math.max(0, Math.min(items.length - 1, at + step))]?.id ?? null);
  useKeys('Shares', [
    { key: 'j', what: 'next share', act: () => move(1) },
    { key: 'k', what: 'share before', act: () => move(-1) },
  ]);
  if (error) return <Trouble error={error} what="The shares cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={4} />;
  if (items.length === 0)
    return (
      <Empty title="Nothing is shared">
        <p>
          What you offer to a partner stands here, with what its people read of it.{' '}
          <button type="button" className="linkish" onClick={offer}>
            Offer the first share
          </button>
        </p>
      </Empty>
    );
  return (
    <Beside first="minmax(240px, 320px)">
      <ul className="tree flat" aria-label="Shares">
        {items.map((share) => (
          <Choice key={share.id} chosen={share.id === shown?.id} choose={() => choose(share.id)}>
            <span className="grow cut">
              {share.name}
              <Note>
                {share.partner} · {shareState(share)}
              </Note>
            </span>
          </Choice>
        ))}
      </ul>
      {shown ? (
        <SharePane key={shown.id} share={shown} />
      ) : (
        <Empty title="This share is not there">
          <p>It may lie in domains whose policies you do not administer.</p>
        </Empty>
      )}
    </Beside>
  );
}
