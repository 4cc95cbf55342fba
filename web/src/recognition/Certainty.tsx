import type { CertaintyAnswer, CertaintyRuleAnswer, ThresholdAnswer } from '@idrel/contract/recognition';
import { CERTAIN, WORTH_SETTLING } from '@idrel/core/recognition/confidence';
import { Button, Checkbox, MultiSelect, NumberInput, Select, TextInput } from '@mantine/core';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { useEditForm } from '../forms/useEditForm.ts';
import { count, Evidence, Name, plural, When } from '../marks/index.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useClassLabel } from './classLabels.ts';
import { Choice, Effect, Frame, removing, useMayAnywhere } from './Frame.tsx';
import {
  type CertaintyChange,
  useCertaintyPreviewQuery,
  useCertaintyQuery,
  useClassesQuery,
  useForgetDismissalMutation,
  useRemoveCertaintyRuleMutation,
  useRemoveThresholdMutation,
  useSaveCertaintyRuleMutation,
  useSaveThresholdMutation,
} from './ownApi.ts';

/** Confidences that hold for a class of which nothing else was said: those of the detectors. */
const USUAL = { certain: CERTAIN, settle: WORTH_SETTLING };
const percent = (part: number) => `${Math.round(part * 1000) / 10} %`;

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
    <div style={{ display: 'grid', gridTemplateColumns: '380px minmax(0, 1fr)', gap: 34, alignItems: 'start' }}>
      <div className="stack" style={{ gap: 22 }}>
        <section aria-label="Rules that confirm">
          <div className="row">
            <h2 className="grow">Rules that confirm</h2>
            {may ? <Button onClick={() => choose('new')}>New rule</Button> : null}
          </div>
          <ul className="tree" style={{ margin: 0, padding: 0 }}>
            {data.rules.map((entry) => (
              <Choice key={entry.id} chosen={entry.id === chosen} choose={() => choose(entry.id)}>
                <span className="grow">
                  {entry.name}
                  <span className="small quiet" style={{ display: 'block' }}>
                    {conditionsOf(entry, labelOf)}
                  </span>
                </span>
                <span className="num">{count(entry.confirms)}</span>
              </Choice>
            ))}
          </ul>
          {data.rules.length === 0 ? <p className="small quiet">None yet: only people confirm findings.</p> : null}
        </section>
        <section aria-label="Thresholds">
          <div className="row">
            <h2 className="grow">Thresholds</h2>
            {may ? (
              <Button variant="default" onClick={() => choose('class:')}>
                Set for a class
              </Button>
            ) : null}
          </div>
          <ul className="tree" style={{ margin: 0, padding: 0 }}>
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
      </div>
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
    </div>
  );
}

function Remembered({
  remembered,
  labelOf,
}: {
  remembered: CertaintyAnswer['remembered'];
  labelOf: (key: string) => string;
}) {
  const [forget] = useForgetDismissalMutation();
  return (
    <section aria-label="Remembered dismissals">
      <h2>Remembered dismissals</h2>
      {remembered.length === 0 ? (
        <p className="small quiet">
          None. Dismissing a finding on the worklist can be told to hold for every column of its name.
        </p>
      ) : null}
      {remembered.map((entry) => (
        <div
          key={entry.id}
          className="row"
          style={{ padding: '6px 0', borderBottom: '1px solid var(--hairline)', alignItems: 'flex-start' }}
        >
          <div className="grow">
            <span className="mono">{entry.column}</span> is no {labelOf(entry.classKey)}
            <div className="small quiet">
              {entry.type ? `${entry.type}, ` : ''}
              {entry.domain} and below · {plural(entry.columns, 'column')} now · {entry.by ?? 'somebody who left'},{' '}
              <When at={entry.at} />
              {entry.reason ? `: ${entry.reason}` : ''}
            </div>
          </div>
          {entry.mayForget ? (
            <Button
              variant="subtle"
              size="compact-xs"
              aria-label={`Forget that ${entry.column} is no ${labelOf(entry.classKey)}`}
              onClick={() =>
                void forget(entry.id)
                  .unwrap()
                  .then(
                    () => sayDone(`What was remembered of ${entry.column} is forgotten.`),
                    (error: unknown) => sayProblem(error, 'It was not forgotten'),
                  )
              }
            >
              Forget
            </Button>
          ) : null}
        </div>
      ))}
    </section>
  );
}

/** A share that people write in percent. */
const Percent = ({
  label,
  description,
  value,
  put,
  least,
}: {
  label: string;
  description?: string;
  value: number;
  put: (part: number) => void;
  least: number;
}) => (
  <NumberInput
    label={label}
    description={description}
    suffix=" %"
    min={least}
    max={100}
    step={1}
    decimalScale={1}
    value={Math.round(value * 1000) / 10}
    onChange={(given) => typeof given === 'number' && put(Math.round(given * 10) / 1000)}
  />
);

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
const inPercent = (part: unknown) => percent(part as number);

function RuleForm({
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
      sayDone(
        `“${gone.name}” is removed; what it confirmed is as it was without it.`,
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
        <NumberInput
          label="Least different values"
          min={1}
          max={1_000_000}
          value={draft.minDistinct}
          onChange={(given) => typeof given === 'number' && put({ minDistinct: Math.max(1, Math.round(given)) })}
        />
      </div>
      <p className="small quiet">
        Where values and name contradict each other, or another class is as likely, no rule confirms: a person looks.
      </p>
    </Frame>
  );
}

function ThresholdForm({
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
      sayDone(
        `${labelOf(gone.classKey)} has the usual thresholds again.`,
        () => void save({ classKey: gone.classKey, version: 0, body: { certain: gone.certain, settle: gone.settle } }),
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

const STATES = {
  certain: 'certain',
  'to-settle': 'to settle',
  confirmed: 'confirmed',
  dismissed: 'dismissed',
  ignored: 'ignored',
} as const;
function Preview({ change }: { change: CertaintyChange }) {
  const { data } = useCertaintyPreviewQuery(change);
  const labelOf = useClassLabel();
  if (!data) return null;
  const words = data.counts
    .map((entry) => `${plural(entry.count, 'finding')} from ${STATES[entry.before]} to ${STATES[entry.after]}`)
    .join(', ');
  return (
    <Effect
      told={data.total === 0 ? 'Nothing: no finding would stand otherwise than it does.' : words}
      label="Findings that would stand otherwise"
      total={data.total}
      rows={data.shown.map((entry) => (
        <tr key={`${entry.assetId}:${entry.classKey}`}>
          <td>
            <Link to={`/assets/${entry.assetId}#findings`}>
              <Name text={entry.path} most={36} />
            </Link>
            <div className="small quiet">{entry.source}</div>
          </td>
          <td>{labelOf(entry.classKey)}</td>
          <td>
            <Evidence share={entry.share} narrow />
          </td>
          <td className="num">{percent(entry.confidence)}</td>
          <td>
            {STATES[entry.before]} → {STATES[entry.after]}
          </td>
        </tr>
      ))}
    />
  );
}
