import type { FindingAnswer } from '@idrel/contract/recognition';
import { Button, Group } from '@mantine/core';
import { Fragment, useState } from 'react';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { Evidence, Name } from '../marks/index.tsx';
import { heard, Listing, num } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { type Decision, useDecideMutation, useFindingsQuery } from './api.ts';
import { FindingEvidence } from './FindingEvidence.tsx';

/** Decides findings, with the way back to what was decided before. What somebody else decided meanwhile is not written over. */
export function useDeciding() {
  const [decide] = useDecideMutation();
  return async (decisions: readonly Decision[], what: string, back: () => void = () => undefined): Promise<void> => {
    try {
      const { at, before } = await decide([...decisions]).unwrap();
      const earlier = before.map(({ remembered, ...decision }, index) => ({
        ...decision,
        ...(decisions[index]?.remember ? { remember: remembered } : {}),
        seen: at,
      }));
      sayDone(what, () => {
        back();
        return decide(earlier);
      });
    } catch (error) {
      back();
      sayProblem(error, 'The decision was not saved');
    }
  };
}

const CHOICES = [
  {
    decision: 'confirmed',
    words: 'Confirm',
    told: ({ column, label }: FindingAnswer) => `${column} confirmed as ${label}.`,
  },
  {
    decision: 'dismissed',
    words: 'Dismiss',
    told: ({ column, label }: FindingAnswer) => `${label} dismissed for ${column}.`,
  },
] as const;

const decisionOn = (
  { assetId, classKey, decidedAt }: FindingAnswer,
  decision: 'confirmed' | 'dismissed',
): Decision => ({
  assetId,
  classKey,
  decision,
  seen: decidedAt,
});

/** Findings of an asset, or of all assets in a state. */
export function FindingList({ asset, state }: { asset?: string; state?: FindingAnswer['state'] | 'open' }) {
  const { data, error } = useFindingsQuery({ ...(asset ? { asset } : {}), ...(state ? { state } : {}) });
  const decide = useDeciding();
  const [open, setOpen] = useState('');
  if (error) return <Trouble error={error} what="The findings cannot be shown" />;
  if (data && data.items.length === 0)
    return <p className="quiet">{asset ? 'No detector claims anything here.' : 'No finding is in this state.'}</p>;
  return (
    <Listing heads={['Column', 'Class', 'Values that match', num('Confidence'), 'State', heard('Decide')]}>
      {(data?.items ?? []).map((finding) => {
        const key = `${finding.assetId}:${finding.classKey}`;
        return (
          <Fragment key={key}>
            <tr className={open === key ? 'open' : ''}>
              <td>
                <Link to={`/assets/${finding.assetId}#findings`}>
                  <Name text={asset ? finding.column : finding.path} most={40} />
                </Link>
                {asset ? null : <div className="small quiet">{finding.source}</div>}
              </td>
              <td>
                <button
                  type="button"
                  className="linkish"
                  aria-expanded={open === key}
                  title="Why"
                  onClick={() => setOpen(open === key ? '' : key)}
                >
                  {finding.label}
                </button>
              </td>
              <td>
                <Evidence share={finding.share} />
              </td>
              <td className="num">{(finding.confidence * 100).toFixed(0)} %</td>
              <td>
                {finding.state === 'to-settle' ? <span className="attention">to settle</span> : finding.state}
                {finding.decidedBy ? <span className="small quiet"> by {finding.decidedBy}</span> : null}
                {finding.rule ? <span className="small quiet"> by the rule “{finding.rule}”</span> : null}
                {finding.remembered && finding.state === 'dismissed' ? (
                  <span className="small quiet"> by its name, {finding.remembered.by}</span>
                ) : null}
              </td>
              <td>
                {finding.maySettle ? (
                  <Group gap={4} justify="flex-end">
                    {CHOICES.filter(({ decision }) => decision !== finding.state).map(({ decision, words, told }) => (
                      <Button
                        key={decision}
                        variant="default"
                        size="compact-xs"
                        onClick={() => void decide([decisionOn(finding, decision)], told(finding))}
                      >
                        {words}
                      </Button>
                    ))}
                  </Group>
                ) : null}
              </td>
            </tr>
            {open === key ? (
              <tr>
                <td colSpan={6} className="opened">
                  <FindingEvidence finding={finding} />
                </td>
              </tr>
            ) : null}
          </Fragment>
        );
      })}
    </Listing>
  );
}
