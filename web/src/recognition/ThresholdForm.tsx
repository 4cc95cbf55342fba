import type { ThresholdAnswer } from '@idrel/contract/recognition';
import { CERTAIN, WORTH_SETTLING } from '@idrel/core/recognition/confidence';
import { Select } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { Frame, removing } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { Preview } from './CertaintyEffect.tsx';
import { inPercent } from './CertaintyRuleForm.tsx';
import { useCertaintyQuery, useRemoveThresholdMutation, useSaveThresholdMutation } from './certaintyApi.ts';
import { useClassesQuery } from './classesApi.ts';
import { useClassLabel } from './classLabels.ts';
import { Percent, percent } from './Percent.tsx';

/** Confidences that hold for a class of which nothing else was said: those of the detectors. */
export const USUAL = { certain: CERTAIN, settle: WORTH_SETTLING };

export function ThresholdForm({
  threshold,
  may,
  choose,
}: {
  threshold: ThresholdAnswer | undefined;
  may: boolean;
  choose: (id: string | null) => void;
}) {
  const { data } = useCertaintyQuery();
  const classes = useClassesQuery();
  const labelOf = useClassLabel();
  const [save] = useSaveThresholdMutation();
  const [remove] = useRemoveThresholdMutation();
  const edit = useEditForm<Omit<ThresholdAnswer, 'version'>, ThresholdAnswer>({
    key: `threshold:${threshold?.classKey ?? 'new'}`,
    now: threshold
      ? {
          version: threshold.version,
          values: { classKey: threshold.classKey, certain: threshold.certain, settle: threshold.settle },
        }
      : null,
    fresh: { classKey: '', ...USUAL },
    valuesOf: (answer) => ({ classKey: answer.classKey, certain: answer.certain, settle: answer.settle }),
    send: ({ classKey, ...body }, version) => save({ classKey, version, body }).unwrap(),
    done: (saved) => {
      sayDone(
        `${labelOf(saved.classKey)}: certain from ${percent(saved.certain)}, shown from ${percent(saved.settle)}.`,
      );
      choose(`class:${saved.classKey}`);
    },
  });
  const { values: draft, put } = edit;
  const { classKey, ...body } = draft;
  const destroy = (gone: ThresholdAnswer) =>
    removing(remove(gone.classKey).unwrap(), 'The thresholds were not removed', () => {
      edit.discard();
      sayDone(`${labelOf(gone.classKey)} has the usual thresholds again.`, () =>
        save({ classKey: gone.classKey, version: 0, body: { certain: gone.certain, settle: gone.settle } }),
      );
      choose(null);
    });
  const taken = new Set((data?.thresholds ?? []).map((entry) => entry.classKey));
  return (
    <Frame
      title={threshold ? `Thresholds of ${labelOf(threshold.classKey)}` : 'Thresholds of a class'}
      may={may}
      edit={edit}
      fields={{
        classKey: ['Class', (key) => labelOf(String(key))],
        certain: ['Certain from', inPercent],
        settle: ['To settle from', inPercent],
      }}
      ready={classKey !== ''}
      words="Save thresholds"
      remove={threshold ? () => destroy(threshold) : undefined}
      removeWords="Take the usual ones"
      below={
        may && classKey !== '' && body.settle <= body.certain ? (
          <Preview change={{ classKey, threshold: body }} />
        ) : null
      }
    >
      {threshold ? null : (
        <Select
          label="Class"
          searchable
          value={classKey || null}
          data={(classes.data ?? [])
            .filter((entry) => !entry.retired && !taken.has(entry.key))
            .map((entry) => ({ value: entry.key, label: entry.label }))}
          onChange={(key) => put({ classKey: key ?? '' })}
        />
      )}
      <div className="fields">
        <Percent
          label="Certain from"
          description="No person is asked"
          value={draft.certain}
          least={50}
          put={(certain) => put({ certain })}
        />
        <Percent
          label="To settle from"
          description="Ignored below"
          value={draft.settle}
          least={50}
          put={(settleFrom) => put({ settle: settleFrom })}
        />
      </div>
    </Frame>
  );
}
