import type { LevelAnswer, LevelKindsAnswer, LevelRuleAnswer, LevelText } from '@idrel/contract/recognition';
import { where } from '@idrel/core/catalog';
import { LEVEL_KINDS } from '@idrel/core/recognition/classes';
import { Button, MultiSelect, Select, Textarea, TextInput } from '@mantine/core';
import { Link } from 'react-router';
import { sayDone } from '../app/say.ts';
import { opens } from '../catalog/opens.ts';
import { useEditForm } from '../forms/useEditForm.ts';
import { Level, plural } from '../marks/index.tsx';
import { useLevelChoices } from '../marks/levelNames.ts';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useClassLabel } from './classLabels.ts';
import { Choice, Frame, removing, useMayAnywhere } from './Frame.tsx';
import { LevelEffect } from './LevelEffect.tsx';
import {
  useClassesQuery,
  useLevelKindsQuery,
  useLevelRulesQuery,
  useLevelsQuery,
  useRemoveLevelRuleMutation,
  useSaveLevelKindsMutation,
  useSaveLevelMutation,
  useSaveLevelRuleMutation,
} from './ownApi.ts';

type Choosing = (id: string | null) => void;

/** The levels and what they mean, the kinds they rise to, and the rules by which combinations of classes raise what holds them. */
export function Levels({ chosen, choose }: { chosen: string | null; choose: Choosing }) {
  const rules = useLevelRulesQuery();
  const levels = useLevelsQuery();
  const kinds = useLevelKindsQuery();
  const labelOf = useClassLabel();
  const may = useMayAnywhere('steward');
  const mayName = useMayAnywhere();
  const error = rules.error ?? levels.error ?? kinds.error;
  if (error && !(rules.data && levels.data && kinds.data))
    return <Trouble error={error} what="The levels cannot be shown" />;
  if (!rules.data || !levels.data || !kinds.data) return <Coming />;
  const rule = rules.data.find((entry) => entry.id === chosen);
  const level = levels.data.find((entry) => `level:${entry.level}` === chosen);
  return (
    <div style={{ display: 'grid', gridTemplateColumns: '380px minmax(0, 1fr)', gap: 34, alignItems: 'start' }}>
      <div className="stack" style={{ gap: 18 }}>
        <section aria-label="Levels">
          <h2>Levels</h2>
          <ul className="tree" style={{ margin: 0, padding: 0 }}>
            {levels.data.map((entry) => (
              <Choice key={entry.level} chosen={entry === level} choose={() => choose(`level:${entry.level}`)}>
                <span className="grow">
                  <Level level={entry.level} />
                  <span className="small quiet" style={{ display: 'block' }}>
                    {entry.meaning}
                  </span>
                </span>
              </Choice>
            ))}
            <Choice chosen={chosen === 'kinds'} choose={() => choose('kinds')}>
              <span className="grow">
                Kinds that have a level
                <span className="small quiet" style={{ display: 'block' }}>
                  columns, {kinds.data.kinds.join(', ')}
                </span>
              </span>
            </Choice>
          </ul>
          <p className="small quiet" style={{ marginTop: 8 }}>
            A column has the highest level of its <Link to="/recognition?show=classes">classes</Link>, in a report that
            of the values it shows; what holds it the highest of what it holds. Rules raise what holds several classes
            together. <Link to="/coverage?show=levels">Levels by domain, source and kind</Link>
          </p>
        </section>
        <section aria-label="Rules">
          <div className="row">
            <h2 className="grow">{plural(rules.data.length, 'rule')}</h2>
            {may ? <Button onClick={() => choose('new')}>New rule</Button> : null}
          </div>
          <ul className="tree" style={{ margin: 0, padding: 0 }}>
            {rules.data.map((entry) => (
              <Choice key={entry.id} chosen={entry.id === chosen} choose={() => choose(entry.id)}>
                <span className="grow">
                  {entry.name}
                  <span className="small quiet" style={{ display: 'block' }}>
                    {entry.classKeys.map(labelOf).join(' + ')}
                  </span>
                </span>
                <Level level={entry.level} />
              </Choice>
            ))}
          </ul>
        </section>
      </div>
      {chosen === 'new' || rule ? (
        <RuleForm key={rule?.id ?? 'new'} rule={rule} may={may} choose={choose} />
      ) : level ? (
        <LevelForm key={level.level} level={level} may={mayName} />
      ) : chosen === 'kinds' ? (
        <KindsForm now={kinds.data} may={may} />
      ) : (
        <Empty title="What is harmless alone">
          <p>
            A name, a date of birth and an address are each guarded; together they are a person. A rule raises every
            table that holds them all. What it would change is shown before it is saved.
          </p>
        </Empty>
      )}
    </div>
  );
}

/** What a level is called and means. */
function LevelForm({ level, may }: { level: LevelAnswer; may: boolean }) {
  const [save] = useSaveLevelMutation();
  const said = ({ name, meaning, advice }: LevelText): LevelText => ({ name, meaning, advice });
  const edit = useEditForm<LevelText, LevelAnswer>({
    key: `level:${level.level}`,
    now: { version: level.version, values: said(level) },
    fresh: said(level),
    valuesOf: said,
    send: (body, version) => save({ level: level.level, version, body }).unwrap(),
    done: (saved) => {
      const body = said(level);
      sayDone(`The level is “${saved.name}”.`, () => void save({ level: level.level, version: saved.version, body }));
    },
  });
  const { form, values: draft } = edit;
  if (!may)
    return (
      <div className="stack" style={{ maxWidth: 640 }}>
        <h2>{level.name}</h2>
        <p>{level.meaning || <span className="quiet">What it means is not written yet.</span>}</p>
        <h3>How to handle what has it</h3>
        <p style={{ whiteSpace: 'pre-wrap' }}>
          {level.advice || <span className="quiet">No advice is written yet.</span>}
        </p>
        <p>
          <Link to={opens(where('level', level.key))}>Assets that have it</Link>
        </p>
        <p className="small quiet">Administrators say what levels are called and mean.</p>
      </div>
    );
  return (
    <Frame
      title={level.name}
      may={may}
      edit={edit}
      fields={{ name: 'Name', meaning: 'What it means', advice: 'How to handle what has it' }}
      ready={draft.name.trim() !== ''}
      words="Save level"
    >
      <TextInput
        label="Name"
        description={
          <>
            Searches and rules know it as <span className="mono">level:{level.key}</span>, whatever it is called
          </>
        }
        required
        {...form.getInputProps('name')}
      />
      <Textarea label="What it means" autosize minRows={2} {...form.getInputProps('meaning')} />
      <Textarea label="How to handle what has it" autosize minRows={3} {...form.getInputProps('advice')} />
    </Frame>
  );
}

/** To which kinds levels rise. */
type LevelKind = LevelKindsAnswer['kinds'][number];
function KindsForm({ now, may }: { now: LevelKindsAnswer; may: boolean }) {
  const [save] = useSaveLevelKindsMutation();
  const kindsOf = ({ kinds }: Pick<LevelKindsAnswer, 'kinds'>) => ({ kinds: [...kinds] });
  const edit = useEditForm<{ kinds: LevelKind[] }, LevelKindsAnswer>({
    key: 'level-kinds',
    now: { version: now.version, values: kindsOf(now) },
    fresh: { kinds: [] },
    valuesOf: kindsOf,
    send: ({ kinds }, version) => save({ version, kinds }).unwrap(),
    done: (saved) => {
      const { kinds } = now;
      sayDone('The kinds are saved; levels follow.', () => void save({ version: saved.version, kinds }));
    },
  });
  const { form, values: draft, differs } = edit;
  return (
    <Frame
      title="Kinds that have a level"
      may={may}
      edit={edit}
      fields={{ kinds: 'Levels rise to' }}
      words="Save kinds"
      below={differs && may ? <LevelEffect change={{ kinds: draft.kinds }} /> : null}
    >
      <MultiSelect
        label="Levels rise to"
        description="Columns always have theirs. A level that somebody set by hand stays, whatever the kind."
        {...form.getInputProps('kinds')}
        data={[...LEVEL_KINDS]}
      />
    </Frame>
  );
}

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

function RuleForm({ rule, may, choose }: { rule: LevelRuleAnswer | undefined; may: boolean; choose: Choosing }) {
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
      sayDone(
        `“${gone.name}” is removed; levels follow.`,
        () => void save({ id: null, version: 0, body: fieldsOf(gone) }),
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
