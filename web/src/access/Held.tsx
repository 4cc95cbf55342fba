import type { HeldClass } from '@idrel/contract/access';
import { Button, Group, Stack } from '@mantine/core';
import { Fragment, useState } from 'react';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { plural, When } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useClassLabel } from '../recognition/index.ts';
import { useHeldQuery, useLetGoEffectQuery, useLetGoMutation } from './api.ts';
import { WhoReads } from './WhoReads.tsx';

/** What lost a class on which a policy rests, or is found by the filter of one no longer: it stays protected until somebody with the right over the policy lets it go. */
export function Held() {
  const { data, error, refetch } = useHeldQuery();
  const labelOf = useClassLabel();
  const [open, setOpen] = useState<string | null>(null);
  if (error) return <Trouble error={error} what="What is held cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  if (data.length === 0)
    return (
      <Empty title="Nothing is held">
        <p>
          When a column loses a class on which a policy rests, because it was dismissed, is not found any more, or its
          detectors are off, or when the filter of a policy no longer finds something, because a tag, an owner or a
          standing was changed, it stays protected and stands here. It is read otherwise only after somebody who may
          change the policy has let it go.
        </p>
      </Empty>
    );
  return (
    <>
      <p className="quiet">
        These no longer carry a class on which a policy rests, or its filter no longer finds them. They stay protected
        until somebody who may change the policy lets them go.
      </p>
      <Listing heads={['Asset', 'Class or filter', 'Protected by', 'Held since', heard('What to do')]}>
        {data.map((held) => {
          const key = `${held.assetId} ${held.classKey ?? held.policies[0]?.id}`;
          return (
            <Fragment key={key}>
              <tr>
                <td className="mono">
                  <Link to={`/assets/${held.assetId}`}>{held.path}</Link> <span className="quiet">{held.source}</span>
                </td>
                {held.classKey === null ? (
                  <td className="mono">{held.filter}</td>
                ) : (
                  <td className="oneline">{labelOf(held.classKey)}</td>
                )}
                <td>{held.policies.map((policy) => policy.name).join(', ')}</td>
                <td className="oneline">
                  <When at={held.since} />
                </td>
                <td className="oneline">
                  <button
                    type="button"
                    className="linkish"
                    aria-expanded={open === key}
                    onClick={() => setOpen(open === key ? null : key)}
                  >
                    What letting go would open
                  </button>
                </td>
              </tr>
              {open === key ? (
                <tr>
                  <td colSpan={5}>
                    <LetGo held={held} done={() => setOpen(null)} />
                  </td>
                </tr>
              ) : null}
            </Fragment>
          );
        })}
      </Listing>
    </>
  );
}

function LetGo({ held, done }: { held: HeldClass; done: () => void }) {
  const by =
    held.classKey === null
      ? { asset: held.assetId, policy: held.policies[0]?.id ?? '' }
      : { asset: held.assetId, class: held.classKey };
  const { data, error } = useLetGoEffectQuery(by);
  const [letGo, going] = useLetGoMutation();
  const labelOf = useClassLabel();
  if (error) return <Trouble error={error} what="The effect cannot be computed" />;
  if (!data) return <p className="quiet">Computing …</p>;
  const go = () =>
    letGo(by)
      .unwrap()
      .then(
        () => {
          sayDone(
            held.classKey === null
              ? `“${held.policies[0]?.name}” no longer holds for ${held.path}.`
              : `${labelOf(held.classKey)} no longer protects ${held.path}.`,
          );
          done();
        },
        (problem: unknown) => sayProblem(problem, 'It was not let go'),
      );
  return (
    <Stack>
      <p role="status">
        {data.rows.length === 0
          ? 'Nobody would read more than now.'
          : `${plural(data.people, 'person', 'people')} would read otherwise than now.`}
      </p>
      {data.rows.length > 0 ? <WhoReads rows={data.rows} /> : null}
      <Group>
        <Button variant="default" onClick={() => void go()} loading={going.isLoading} disabled={!held.mayLetGo}>
          {held.classKey === null ? 'Let it go' : 'Let the class go'}
        </Button>
        {held.mayLetGo ? null : (
          <span className="quiet">
            It takes the right to change {held.policies.map((policy) => `“${policy.name}”`).join(' and ')}.
          </span>
        )}
      </Group>
    </Stack>
  );
}
