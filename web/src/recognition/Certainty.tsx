import type { CertaintyRuleAnswer } from '@idrel/contract/recognition';
import { Button, Group, Stack } from '@mantine/core';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { count } from '../marks/index.tsx';
import { Beside, Choice, Note } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { RuleForm } from './CertaintyRuleForm.tsx';
import { useCertaintyQuery } from './certaintyApi.ts';
import { useClassLabel } from './classLabels.ts';
import { percent } from './Percent.tsx';
import { Remembered } from './Remembered.tsx';
import { ThresholdForm, USUAL } from './ThresholdForm.tsx';

function conditionsOf(rule: CertaintyRuleAnswer, labelOf: (key: string) => string): string {
  return [
    rule.classKeys ? rule.classKeys.map(labelOf).join(', ') : 'any class',
    rule.checked ? 'check digits verified' : '',
    rule.named ? 'the name agrees' : '',
    rule.minShare > 0 ? `${percent(rule.minShare)} of the values` : '',
    `confidence from ${percent(rule.minConfidence)}`,
    rule.minDistinct > 1 ? `${count(rule.minDistinct)} different` : '',
  ]
    .filter(Boolean)
    .join(' · ');
}

/** What is certain without a person: rules that confirm, thresholds of classes, and dismissals that hold by name. */
export function Certainty({ chosen, choose }: { chosen: string | null; choose: (id: string | null) => void }) {
  const { data, error } = useCertaintyQuery();
  const may = useMayAnywhere('steward');
  const labelOf = useClassLabel();
  if (error && !data) return <Trouble error={error} what="What is certain cannot be shown" />;
  if (!data) return <Coming />;
  const rule = data.rules.find((entry) => entry.id === chosen);
  const threshold = data.thresholds.find((entry) => `class:${entry.classKey}` === chosen);
  return (
    <Beside first="380px">
      <Stack gap={22}>
        <section aria-label="Rules that confirm">
          <Group>
            <h2 className="grow">Rules that confirm</h2>
            {may ? <Button onClick={() => choose('new')}>New rule</Button> : null}
          </Group>
          <ul className="tree flat">
            {data.rules.map((entry) => (
              <Choice key={entry.id} chosen={entry.id === chosen} choose={() => choose(entry.id)}>
                <span className="grow">
                  {entry.name}
                  <Note>{conditionsOf(entry, labelOf)}</Note>
                </span>
                <span className="num">{count(entry.confirms)}</span>
              </Choice>
            ))}
          </ul>
          {data.rules.length === 0 ? <p className="small quiet">None yet: only people confirm findings.</p> : null}
        </section>
        <section aria-label="Thresholds">
          <Group>
            <h2 className="grow">Thresholds</h2>
            {may ? (
              <Button variant="default" onClick={() => choose('class:')}>
                Set for a class
              </Button>
            ) : null}
          </Group>
          <ul className="tree flat">
            {data.thresholds.map((entry) => (
              <Choice
                key={entry.classKey}
                chosen={entry === threshold}
                choose={() => choose(`class:${entry.classKey}`)}
              >
                <span className="grow">{labelOf(entry.classKey)}</span>
                <span className="small quiet">
                  certain {percent(entry.certain)}, shown {percent(entry.settle)}
                </span>
              </Choice>
            ))}
          </ul>
          <p className="small quiet">
            All others: certain from {percent(USUAL.certain)}, to settle from {percent(USUAL.settle)}, ignored below.
          </p>
        </section>
        <Remembered remembered={data.remembered} labelOf={labelOf} />
      </Stack>
      {chosen === 'new' || rule ? (
        <RuleForm key={rule?.id ?? 'new'} rule={rule} may={may} choose={choose} />
      ) : chosen?.startsWith('class:') ? (
        <ThresholdForm key={threshold?.classKey ?? 'new'} threshold={threshold} may={may} choose={choose} />
      ) : (
        <Empty title="What needs no person">
          <p>
            A rule confirms what is beyond doubt, for example verified check digits in nearly all values. A threshold
            says from which confidence a class is certain, and below which it is not worth a look. Both hold at once for
            all that was found, without a new scan; what people decided stands above them.
          </p>
        </Empty>
      )}
    </Beside>
  );
}
