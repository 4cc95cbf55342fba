import type { LevelPreview, LevelRuleAnswer } from '@idrel/contract/recognition';
import { LEVELS } from '@idrel/core/recognition/classes';
import { Button, MultiSelect, Select, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { problemOf, useSessionQuery } from '../app/api.ts';
import { useDraft } from '../app/draft.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { count, KindMark, Level, Name, plural } from '../marks/index.tsx';
import { Coming, Empty, ProblemNotice, Trouble } from '../marks/states.tsx';
import { useClassLabel } from './classLabels.ts';
import { useClassesQuery, useLevelPreviewQuery, useLevelRulesQuery, useRemoveLevelRuleMutation, useSaveLevelRuleMutation } from './ownApi.ts';

const MEANINGS = [
  'Anybody in the organisation may read it, and it may be shown outside.',
  'For people of the organisation.',
  'Personal or confidential: for those whose work needs it; no raw values are kept in profiles.',
  'Would do harm in the wrong hands: only under a policy that says so.',
];
const KINDS = ['table', 'view', 'materialised view', 'foreign table', 'file', 'file set', 'report', 'dashboard'];

/** The levels, and the rules by which combinations of classes raise what holds them. */
export function Levels({ chosen, choose }: { chosen: string | null; choose: (id: string | null) => void }) {
  const { data, error } = useLevelRulesQuery();
  const session = useSessionQuery();
  const labelOf = useClassLabel();
  const may = session.data?.grants.some((grant) => ['steward', 'administrator'].includes(grant.role)) ?? false;
  if (error && !data) return <Trouble error={error} what="The levels cannot be shown" />;
  if (!data) return <Coming />;
  const rule = data.find((entry) => entry.id === chosen);
  return (
    <div style={{ display: 'grid', gridTemplateColumns: '380px minmax(0, 1fr)', gap: 34, alignItems: 'start' }}>
      <div className="stack" style={{ gap: 18 }}>
        <section aria-label="Levels">
          <h2>Levels</h2>
          {LEVELS.map((name, index) => (
            <div key={name} style={{ padding: '6px 0', borderBottom: '1px solid var(--hairline)' }}>
              <Level level={index + 1} />
              <div className="small quiet">{MEANINGS[index]}</div>
            </div>
          ))}
          <p className="small quiet" style={{ marginTop: 8 }}>
            A column has the highest level of its <Link to="/recognition?show=classes">classes</Link>, what holds it the highest of its columns. Rules raise what holds several classes together.
          </p>
        </section>
        <section aria-label="Rules">
          <div className="row">
            <h2 className="grow">{plural(data.length, 'rule')}</h2>
            {may ? <Button onClick={() => choose('new')}>New rule</Button> : null}
          </div>
          <ul className="tree" style={{ listStyle: 'none', margin: 0, padding: 0 }}>
            {data.map((entry) => (
              <li key={entry.id}>
                <button type="button" className="node" aria-current={entry.id === chosen} style={{ background: entry.id === chosen ? 'var(--kelp-soft)' : 'none' }} onClick={() => choose(entry.id)}>
                  <span className="grow">
                    {entry.name}
                    <span className="small quiet" style={{ display: 'block' }}>
                      {entry.classKeys.map(labelOf).join(' + ')}
                    </span>
                  </span>
                  <Level level={entry.level} />
                </button>
              </li>
            ))}
          </ul>
        </section>
      </div>
      {chosen === 'new' || rule ? (
        <RuleForm key={rule ? `${rule.id}:${rule.version}` : 'new'} rule={rule} may={may} choose={choose} />
      ) : (
        <Empty title="What is harmless alone">
          <p>A name, a date of birth and an address are each guarded; together they are a person. A rule raises every table that holds them all. What it would change is shown before it is saved.</p>
        </Empty>
      )}
    </div>
  );
}

function RuleForm({ rule, may, choose }: { rule: LevelRuleAnswer | undefined; may: boolean; choose: (id: string | null) => void }) {
  const { draft, put, differs, settle } = useDraft(`level-rule:${rule?.id ?? 'new'}`, {
    name: rule?.name ?? '',
    classKeys: [...(rule?.classKeys ?? [])],
    level: rule?.level ?? 4,
    kinds: rule?.kinds ? [...rule.kinds] : null,
  });
  const classes = useClassesQuery();
  const [save, saving] = useSaveLevelRuleMutation();
  const [remove] = useRemoveLevelRuleMutation();
  const [problem, setProblem] = useState<ReturnType<typeof problemOf> | null>(null);
  const preview = useLevelPreviewQuery({ id: rule?.id ?? null, rule: { ...draft, name: draft.name.trim() || 'draft' } }, { skip: draft.classKeys.length === 0 || !may });
  const keep = async (version = rule?.version ?? 0) => {
    try {
      const saved = await save({ id: rule?.id ?? null, version, body: draft }).unwrap();
      settle();
      sayDone(`“${saved.name}” is saved; levels follow.`);
      choose(saved.id);
    } catch (error) {
      setProblem(problemOf(error));
    }
  };
  const destroy = () =>
    rule &&
    remove(rule.id)
      .unwrap()
      .then(
        () => {
          settle();
          const { name, classKeys, level, kinds } = rule;
          sayDone(`“${name}” is removed; levels follow.`, () => void save({ id: null, version: 0, body: { name, classKeys, level, kinds } }));
          choose(null);
        },
        (error: unknown) => sayProblem(error, 'The rule was not removed'),
      );
  return (
    <div className="stack" style={{ maxWidth: 760 }}>
      <h2>{rule?.name ?? 'New rule'}</h2>
      <fieldset disabled={!may} style={{ border: 0, padding: 0, margin: 0 }} className="stack">
        <TextInput label="Name" required value={draft.name} onChange={(event) => put({ name: event.currentTarget.value })} />
        <MultiSelect
          label="What holds all of these classes"
          searchable
          value={draft.classKeys}
          data={(classes.data ?? []).filter((entry) => !entry.retired).map((entry) => ({ value: entry.key, label: entry.label }))}
          onChange={(classKeys) => put({ classKeys })}
        />
        <div className="fields">
          <Select
            label="Is at least"
            value={String(draft.level)}
            allowDeselect={false}
            data={LEVELS.map((name, index) => ({ value: String(index + 1), label: name }))}
            onChange={(level) => put({ level: Number(level) })}
          />
          <MultiSelect
            label="Kinds"
            placeholder={draft.kinds === null ? 'all that have columns' : ''}
            value={draft.kinds ?? []}
            data={KINDS}
            onChange={(kinds) => put({ kinds: kinds.length === 0 ? null : kinds })}
          />
        </div>
      </fieldset>
      <ProblemNotice problem={problem} over={(version) => void keep(version)} />
      {may ? (
        <div className="row">
          <Button onClick={() => void keep()} loading={saving.isLoading} disabled={!differs || !draft.name.trim() || draft.classKeys.length === 0}>
            Save rule
          </Button>
          {rule ? (
            <Button variant="subtle" c="var(--buoy)" onClick={() => void destroy()}>
              Remove
            </Button>
          ) : null}
        </div>
      ) : null}
      {preview.data ? <Preview told={preview.data} /> : null}
    </div>
  );
}

const levelWord = (level: number | null) => (level === null ? 'none' : (LEVELS[level - 1] ?? ''));
const SHOWN = 60;

function Preview({ told }: { told: LevelPreview }) {
  return (
    <section aria-label="What it would change">
      <h3>What it would change</h3>
      <p role="status">
        {told.total === 0
          ? 'Nothing: no level would differ from what it is now.'
          : told.counts.map((entry) => `${plural(entry.count, 'asset')} from ${levelWord(entry.before)} to ${levelWord(entry.after)}`).join(', ')}
      </p>
      {told.shown.length > 0 ? (
        <table className="plain" aria-label="Assets whose level would change">
          <tbody>
            {told.shown.slice(0, SHOWN).map((asset) => (
              <tr key={asset.id}>
                <td>
                  <span className="row">
                    <KindMark kind={asset.kind} />
                    <Link to={`/assets/${asset.id}`}>
                      <Name text={asset.path} most={46} />
                    </Link>
                  </span>
                </td>
                <td className="quiet small">{asset.source}</td>
                <td>
                  {levelWord(asset.before)} → {levelWord(asset.after)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      {told.total > Math.min(SHOWN, told.shown.length) ? <p className="quiet small">and {count(told.total - Math.min(SHOWN, told.shown.length))} more</p> : null}
    </section>
  );
}
