import type { ProposedImpact } from '@idrel/contract/lineage';
import type { Proposal } from '@idrel/core/lineage/proposed';
import { mentionText } from '@idrel/core/writing/mentions';
import { Button, Checkbox, Group } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayDone } from '../app/say.ts';
import { count, KindMark, Name, plural } from '../marks/index.tsx';
import { Saying } from '../writing/index.ts';
import { useTellOfProposedMutation } from './api.ts';
import { CONSEQUENCE_WORDS, GRAVE, plannedInWords } from './proposedWords.ts';

type Person = ProposedImpact['people'][number];

/** Why somebody is told: what they answer for, and how often they asked. */
function roleOf({ roles, assets, asked }: Person): string {
  const answering = roles.filter((role) => role !== 'asks');
  return [
    ...(answering.length > 0 ? [`${answering.join(' and ')} of ${plural(assets, 'asset')}`] : []),
    ...(asked > 0 ? [`asked ${count(Math.round(asked))} times`] : []),
  ].join('; ');
}

const manyOf = (chosen: readonly Person[]): string =>
  chosen.some(({ group }) => group)
    ? plural(chosen.length, 'person or group', 'people and groups')
    : plural(chosen.length, 'person', 'people');

/** Whom a proposed change concerns, and what else does not go on as it did. */
export function Concerned({
  data,
  asked,
}: {
  data: ProposedImpact;
  asked: { asset: string; what: Proposal; to?: string };
}) {
  const { people, flows, policies, checks, asset } = data;
  const [left, leave] = useState<ReadonlySet<string>>(new Set());
  const [writing, setWriting] = useState(false);
  const [tell] = useTellOfProposedMutation();
  const chosen = people.filter(({ id }) => !left.has(id));
  const send = async (text: string) => {
    const told = await tell({ ...asked, text, people: chosen.map(({ id }) => id) }).unwrap();
    sayDone(
      `${plural(told.told, 'person or group', 'people and groups')} told: it waits on their worklists.${
        told.notTold.length > 0 ? ` Not told, since they may see nothing of it: ${told.notTold.join(', ')}.` : ''
      }`,
    );
  };
  return (
    <aside className="stack" aria-label="Whom and what it concerns">
      <section aria-labelledby="whom" className="stack">
        <h2 id="whom">Whom to tell</h2>
        {people.length === 0 ? (
          <p className="quiet">Nobody answers for what is concerned, and nobody is known to have asked for it.</p>
        ) : (
          <>
            <ul className="bare">
              {people.map((one) => (
                <li key={one.id}>
                  <Checkbox
                    size="xs"
                    py={3}
                    checked={!left.has(one.id)}
                    onChange={(event) => {
                      const next = new Set(left);
                      if (event.currentTarget.checked) next.delete(one.id);
                      else next.add(one.id);
                      leave(next);
                    }}
                    label={
                      <>
                        {one.name}
                        {one.group ? ' (group)' : ''} <span className="quiet small">{roleOf(one)}</span>
                      </>
                    }
                  />
                </li>
              ))}
            </ul>
            {writing ? (
              <Saying
                label="Your message"
                words={`Tell ${manyOf(chosen)}`}
                keep={`tell:${asked.asset}`}
                begin={`${mentionText('asset', asset.id, asset.path)} ${plannedInWords(asked.what, asked.to)}. Something that you answer for or ask for is made of it: ${window.location.href}`}
                send={send}
                close={() => setWriting(false)}
              />
            ) : (
              <Group>
                <Button size="compact-sm" disabled={chosen.length === 0} onClick={() => setWriting(true)}>
                  Write to {manyOf(chosen)}
                </Button>
                <button
                  type="button"
                  className="linkish small"
                  onClick={() => leave(left.size === 0 ? new Set(people.map(({ id }) => id)) : new Set())}
                >
                  {left.size === 0 ? 'Choose none' : 'Choose all'}
                </button>
              </Group>
            )}
          </>
        )}
      </section>
      {flows.length > 0 ? (
        <section aria-labelledby="flows" className="stack">
          <h2 id="flows">Flows</h2>
          <ul className="bare">
            {flows.map((flow) => (
              <li key={flow.id}>
                <span className="row">
                  <KindMark kind="flow" />
                  <Link to={`/assets/${flow.id}`}>
                    <Name text={flow.path} most={30} />
                  </Link>{' '}
                  <strong className={GRAVE.includes(flow.consequence) ? 'attention small' : 'small'}>
                    {CONSEQUENCE_WORDS[flow.consequence]}
                  </strong>
                </span>
                <div className="small">{flow.why}</div>
                <div className="quiet small">
                  {flow.source}
                  {flow.owners.length > 0 ? `, ${flow.owners.join(', ')}` : ''}
                </div>
              </li>
            ))}
          </ul>
        </section>
      ) : null}
      {policies.length > 0 ? (
        <section aria-labelledby="policies" className="stack">
          <h2 id="policies">Policies</h2>
          <ul className="bare">
            {policies.map((policy) => (
              <li key={policy.id}>
                <Link to={`/access?edit=${policy.id}`}>{policy.name}</Link>{' '}
                <span className="quiet small">
                  {policy.effect}; {policy.why}
                </span>
              </li>
            ))}
          </ul>
        </section>
      ) : null}
      {checks.length > 0 ? (
        <section aria-labelledby="checks" className="stack">
          <h2 id="checks">Checks</h2>
          <ul className="bare">
            {checks.map((check) => (
              <li key={`${check.flow} ${check.of} ${check.what}`}>
                <span className="mono small anywhere">
                  {check.of}: {check.what}
                </span>
                <div className="quiet small">in runs of {check.flow}</div>
              </li>
            ))}
          </ul>
        </section>
      ) : null}
    </aside>
  );
}
