import type { LevelRuleAnswer } from '@idrel/contract/recognition';
import { LEVEL_KINDS } from '@idrel/core/recognition/classes';
import { MultiSelect, Select, TextInput } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { Frame, removing } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { Level } from '../marks/index.tsx';
import { useLevelChoices } from '../marks/levelNames.ts';
import { useClassesQuery } from './classesApi.ts';
import { useClassLabel } from './classLabels.ts';
import { LevelEffect } from './LevelEffect.tsx';
import { useRemoveLevelRuleMutation, useSaveLevelRuleMutation } from './levelsApi.ts';

export type Choosing = (id: string | null) => void;

interface RuleFields {
  name: string;
  classKeys: string[];
  level: number;
  kinds: string[] | null;
}
const fieldsOf = ({ name, classKeys, level, kinds }: LevelRuleAnswer): RuleFields => ({
  name,
  classKeys: [...classKeys],
  level,
  kinds: kinds ? [...kinds] : null,
});

export function RuleForm({ rule, may, choose }: { rule: LevelRuleAnswer | undefined; may: boolean; choose: Choosing }) {
  const classes = useClassesQuery();
  const labelOf = useClassLabel();
  const levels = useLevelChoices();
  const [save] = useSaveLevelRuleMutation();
  const [remove] = useRemoveLevelRuleMutation();
  const edit = useEditForm<RuleFields, LevelRuleAnswer>({
    key: `level-rule:${rule?.id ?? 'new'}`,
    now: rule ? { version: rule.version, values: fieldsOf(rule) } : null,
    fresh: { name: '', classKeys: [], level: 4, kinds: null },
    valuesOf: fieldsOf,
    send: (body, version) => save({ id: rule?.id ?? null, version, body }).unwrap(),
    done: (saved) => {
      sayDone(`“${saved.name}” is saved; levels follow.`);
      choose(saved.id);
    },
  });
  const { form, values: draft, put } = edit;
  const destroy = (gone: LevelRuleAnswer) =>
    removing(remove(gone.id).unwrap(), 'The rule was not removed', () => {
      edit.discard();
      sayDone(`“${gone.name}” is removed; levels follow.`, () => save({ id: null, version: 0, body: fieldsOf(gone) }));
      choose(null);
    });
  return (
    <Frame
      title={rule?.name ?? 'New rule'}
      may={may}
      edit={edit}
      fields={{
        name: 'Name',
        classKeys: ['What holds all of these classes', (keys) => (keys as string[]).map(labelOf).join(' + ')],
        level: ['Is at least', (level) => <Level level={level as number} />],
        kinds: ['Kinds', (kinds) => (kinds as string[] | null)?.join(', ') ?? 'all that have columns'],
      }}
      ready={draft.name.trim() !== '' && draft.classKeys.length > 0}
      words="Save rule"
      remove={rule ? () => destroy(rule) : undefined}
      below={
        draft.classKeys.length > 0 && may ? (
          <LevelEffect change={{ id: rule?.id ?? null, rule: { ...draft, name: rule?.name ?? '(draft)' } }} />
        ) : null
      }
    >
      <TextInput label="Name" required {...form.getInputProps('name')} />
      <MultiSelect
        label="What holds all of these classes"
        searchable
        {...form.getInputProps('classKeys')}
        data={(classes.data ?? [])
          .filter((entry) => !entry.retired)
          .map((entry) => ({ value: entry.key, label: entry.label }))}
      />
      <div className="fields">
        <Select
          label="Is at least"
          value={String(draft.level)}
          allowDeselect={false}
          data={levels}
          onChange={(level) => put({ level: Number(level) })}
        />
        <MultiSelect
          label="Kinds"
          placeholder={draft.kinds === null ? 'all that have columns' : ''}
          value={draft.kinds ?? []}
          data={[...LEVEL_KINDS]}
          onChange={(kinds) => put({ kinds: kinds.length === 0 ? null : kinds })}
        />
      </div>
    </Frame>
  );
}
