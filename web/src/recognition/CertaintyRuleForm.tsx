import type { CertaintyRuleAnswer } from '@idrel/contract/recognition';
import { Checkbox, MultiSelect, TextInput } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { Frame, removing } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { plural } from '../marks/index.tsx';
import { NumberField } from '../marks/NumberField.tsx';
import { Preview } from './CertaintyEffect.tsx';
import { useRemoveCertaintyRuleMutation, useSaveCertaintyRuleMutation } from './certaintyApi.ts';
import { useClassesQuery } from './classesApi.ts';
import { useClassLabel } from './classLabels.ts';
import { Percent, percent } from './Percent.tsx';

type RuleFields = Omit<CertaintyRuleAnswer, 'id' | 'version' | 'confirms'>;
const fieldsOf = ({
  name,
  classKeys,
  checked,
  named,
  minShare,
  minConfidence,
  minDistinct,
}: RuleFields): RuleFields => ({
  name,
  classKeys: classKeys ? [...classKeys] : null,
  checked,
  named,
  minShare,
  minConfidence,
  minDistinct,
});
const NO_RULE: RuleFields = {
  name: '',
  classKeys: null,
  checked: true,
  named: false,
  minShare: 0.95,
  minConfidence: 0.8,
  minDistinct: 20,
};
export const inPercent = (part: unknown) => percent(part as number);

export function RuleForm({
  rule,
  may,
  choose,
}: {
  rule: CertaintyRuleAnswer | undefined;
  may: boolean;
  choose: (id: string | null) => void;
}) {
  const classes = useClassesQuery();
  const labelOf = useClassLabel();
  const [save] = useSaveCertaintyRuleMutation();
  const [remove] = useRemoveCertaintyRuleMutation();
  const edit = useEditForm<RuleFields, CertaintyRuleAnswer>({
    key: `certainty-rule:${rule?.id ?? 'new'}`,
    now: rule ? { version: rule.version, values: fieldsOf(rule) } : null,
    fresh: NO_RULE,
    valuesOf: fieldsOf,
    send: (body, version) => save({ id: rule?.id ?? null, version, body }).unwrap(),
    done: (saved) => {
      sayDone(`“${saved.name}” is saved: it confirms ${plural(saved.confirms, 'finding')}.`);
      choose(saved.id);
    },
  });
  const { form, values: draft, put } = edit;
  const destroy = (gone: CertaintyRuleAnswer) =>
    removing(remove(gone.id).unwrap(), 'The rule was not removed', () => {
      edit.discard();
      sayDone(`“${gone.name}” is removed; what it confirmed is as it was without it.`, () =>
        save({ id: null, version: 0, body: fieldsOf(gone) }),
      );
      choose(null);
    });
  return (
    <Frame
      title={rule?.name ?? 'New rule'}
      may={may}
      edit={edit}
      fields={{
        name: 'Name',
        classKeys: [
          'Confirms findings of',
          (keys) => (keys as string[] | null)?.map(labelOf).join(', ') ?? 'any class',
        ],
        checked: 'when its detector verified check digits',
        named: 'when the column’s name agrees',
        minShare: ['Least share of the values', inPercent],
        minConfidence: ['Least confidence', inPercent],
        minDistinct: 'Least different values',
      }}
      ready={draft.name.trim() !== ''}
      words="Save rule"
      remove={rule ? () => destroy(rule) : undefined}
      below={
        may ? <Preview change={{ id: rule?.id ?? null, rule: { ...draft, name: rule?.name ?? '(draft)' } }} /> : null
      }
    >
      <TextInput label="Name" required {...form.getInputProps('name')} />
      <MultiSelect
        label="Confirms findings of"
        placeholder={draft.classKeys === null ? 'any class' : ''}
        searchable
        value={[...(draft.classKeys ?? [])]}
        data={(classes.data ?? [])
          .filter((entry) => !entry.retired)
          .map((entry) => ({ value: entry.key, label: entry.label }))}
        onChange={(classKeys) => put({ classKeys: classKeys.length === 0 ? null : classKeys })}
      />
      <Checkbox
        label="when its detector verified check digits"
        {...form.getInputProps('checked', { type: 'checkbox' })}
      />
      <Checkbox label="when the column’s name agrees" {...form.getInputProps('named', { type: 'checkbox' })} />
      <div className="fields">
        <Percent
          label="Least share of the values"
          value={draft.minShare}
          least={0}
          put={(minShare) => put({ minShare })}
        />
        <Percent
          label="Least confidence"
          value={draft.minConfidence}
          least={50}
          put={(minConfidence) => put({ minConfidence })}
        />
        <NumberField
          label="Least different values"
          min={1}
          max={1_000_000}
          value={draft.minDistinct}
          put={(minDistinct) => put({ minDistinct })}
        />
      </div>
      <p className="small quiet">
        Where values and name contradict each other, or another class is as likely, no rule confirms: a person looks.
      </p>
    </Frame>
  );
}
