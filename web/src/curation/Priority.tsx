import type { PriorityRule, PriorityRuleBody } from '@idrel/contract/curation';
import { PRIORITIES } from '@idrel/core/catalog';
import { Button, Checkbox, Group, SegmentedControl, Textarea, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { Link } from 'react-router';
import { useAddress } from '../app/address.ts';
import { problemOf } from '../app/api.ts';
import { useKeys } from '../app/keys.tsx';
import { sayDone } from '../app/say.ts';
import { opens } from '../catalog/index.ts';
import { Effect, Frame, removing } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { count, KindMark, Name, PriorityMark, plural, When } from '../marks/index.tsx';
import { Choice, Pane, Panes } from '../marks/layout.tsx';
import { Coming, Empty, ProblemNotice, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import {
  usePreviewPriorityRuleQuery,
  usePriorityRulesQuery,
  useRemovePriorityRuleMutation,
  useSavePriorityRuleMutation,
} from './priorityApi.ts';

/** Rules by which assets matter: the list at the left, the chosen one with what it changes at the right. */
export function Component() {
  const [params, put] = useAddress();
  const chosen = params.get('rule');
  const { data, error, refetch } = usePriorityRulesQuery();
  const rule = data?.rules.find(({ id }) => id === chosen);
  const choose = (id: string | null) => put({ rule: id, filter: null });
  useCrumbs({ text: 'Settings', to: '/settings' }, { text: 'Priority', to: '/settings/priority' });
  useKeys('Priority', [{ key: 'n', what: 'new rule', act: () => data?.mayChange && choose('new') }]);
  if (error && !data) return <Trouble error={error} what="The rules cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  return (
    <Panes first="290px">
      <Pane as="list">
        <Group className="above">
          <h1 className="grow">Priority</h1>
          {data.mayChange ? <Button onClick={() => choose('new')}>New rule</Button> : null}
        </Group>
        <ul className="tree flat" aria-label="Rules of priority">
          {data.rules.map((entry) => (
            <Choice key={entry.id} chosen={entry.id === chosen} choose={() => choose(entry.id)}>
              <span className="grow cut">{entry.name}</span>
              <span className="quiet small">
                {entry.enabled ? `${PRIORITIES[entry.priority]}, ${count(entry.found)}` : 'off'}
              </span>
            </Choice>
          ))}
        </ul>
        {data.settledAt ? (
          <p className="quiet small above">
            What follows was last worked out <When at={data.settledAt} />.
          </p>
        ) : null}
      </Pane>
      {rule || (chosen === 'new' && data.mayChange) ? (
        <RuleForm
          key={rule?.id ?? 'new'}
          rule={rule}
          filter={params.get('filter') ?? ''}
          may={data.mayChange}
          close={choose}
        />
      ) : (
        <div className="pane">
          <Empty title={data.rules.length === 0 ? 'No rule yet' : 'Choose a rule'}>
            <p>
              A rule says which assets are important or critical by facts: what is trusted and often asked for, the
              reports of a domain, what carries a tag. What they are made from inherits it, step by step upstream, and
              both are told apart on each page. People can state a priority of their own there. Sort a list by it, or
              search for it: <Link to={opens('priority:critical')}>priority:critical</Link>.
            </p>
          </Empty>
        </div>
      )}
    </Panes>
  );
}

type Draft = { -readonly [K in keyof PriorityRuleBody]: PriorityRuleBody[K] };
const fieldsOf = ({ name, filter, priority, enabled }: PriorityRule): Draft => ({ name, filter, priority, enabled });

function RuleForm({
  rule,
  filter,
  may,
  close,
}: {
  rule: PriorityRule | undefined;
  filter: string;
  may: boolean;
  close: (id: string | null) => void;
}) {
  const [save] = useSavePriorityRuleMutation();
  const [remove] = useRemovePriorityRuleMutation();
  const history = useJournalQuery(rule?.id ?? '', { skip: !rule });
  const edit = useEditForm<Draft, PriorityRule>({
    key: `priority:${rule?.id ?? 'new'}`,
    now: rule ? { version: rule.version, values: fieldsOf(rule) } : null,
    fresh: { name: '', filter, priority: 1, enabled: true },
    valuesOf: fieldsOf,
    send: (body, version) => save({ id: rule?.id ?? null, version, body }).unwrap(),
    done: ({ id, name }) => {
      sayDone(`“${name}” is saved; what follows from it is being worked out.`);
      close(id);
    },
  });
  const { values, put, form } = edit;
  const destroy = (gone: PriorityRule) =>
    removing(remove(gone.id).unwrap(), 'The rule was not removed', () => {
      edit.discard();
      sayDone(`“${gone.name}” is removed.`, () => save({ id: null, version: 0, body: fieldsOf(gone) }));
      close(null);
    });
  return (
    <Pane as="form">
      <Frame
        title={rule?.name ?? 'New rule'}
        may={may}
        edit={edit}
        ready={values.name.trim() !== '' && values.filter.trim() !== ''}
        fields={{
          name: 'Name',
          filter: 'Which assets',
          priority: ['Priority', (grade) => PRIORITIES[grade as number]],
          enabled: ['In force', (on) => (on ? 'yes' : 'no')],
        }}
        words="Save rule"
        remove={rule ? () => destroy(rule) : undefined}
        below={
          <>
            {may ? <RuleEffect rule={values} id={rule?.id} /> : null}
            {rule ? (
              <>
                <p>
                  Found when it was last asked: <Link to={opens(rule.filter)}>{plural(rule.found, 'asset')}</Link>.
                </p>
                <h3 className="under">History</h3>
                <History entries={history.data ?? []} />
              </>
            ) : null}
          </>
        }
      >
        <TextInput label="Name" required {...form.getInputProps('name')} />
        <Textarea
          label="Which assets"
          description="Words and conditions, as in the search box: kind:report standing:trusted; used>=1000 kind:table"
          required
          autosize
          {...form.getInputProps('filter')}
        />
        <div>
          <SegmentedControl
            aria-label="Priority"
            value={String(values.priority)}
            onChange={(grade) => put({ priority: Number(grade) })}
            data={[
              { value: '1', label: 'Important' },
              { value: '2', label: 'Critical' },
            ]}
          />
        </div>
        <Checkbox
          label="In force"
          checked={values.enabled}
          onChange={(event) => put({ enabled: event.currentTarget.checked })}
        />
      </Frame>
    </Pane>
  );
}

/** What the rule, as it is typed, would change. */
function RuleEffect({ rule, id }: { rule: PriorityRuleBody; id: string | undefined }) {
  const [asked] = useDebouncedValue(rule, 400);
  const isReady = asked.filter.trim() !== '';
  const { data, error, isFetching } = usePreviewPriorityRuleQuery(
    { rule: { ...asked, name: asked.name.trim() || 'new' }, ...(id ? { id } : {}) },
    { skip: !isReady },
  );
  if (!isReady) return <p className="quiet">Say which assets: then what would come to matter is listed here.</p>;
  if (error && !isFetching) return <ProblemNotice problem={problemOf(error)} />;
  if (!data) return <p className="quiet">Looking …</p>;
  const shifted = data.shifts.reduce((sum, { assets }) => sum + assets, 0);
  const words = data.shifts.map(
    ({ before, after, assets }) => `${plural(assets, 'asset')} from ${PRIORITIES[before]} to ${PRIORITIES[after]}`,
  );
  return (
    <div className={isFetching ? 'fading' : undefined}>
      <Effect
        told={
          shifted === 0
            ? `It finds ${plural(data.found, 'asset')}; nothing would matter otherwise than it does.`
            : `It finds ${plural(data.found, 'asset')}. With what inherits, ${words.join('; ')}.`
        }
        label="Assets that would matter otherwise"
        total={shifted}
        rows={data.shown.map((row) => (
          <tr key={row.id}>
            <td>
              <span className="row">
                <KindMark kind={row.kind} />
                <Link to={`/assets/${row.id}`}>
                  <Name text={row.path} most={40} />
                </Link>
              </span>
              <div className="quiet small">{row.source}</div>
            </td>
            <td>
              <PriorityMark grade={row.after} />
              <div className="quiet small">was {PRIORITIES[row.before]}</div>
            </td>
            <td className="quiet small">{row.from ? <>by {row.from}</> : ''}</td>
          </tr>
        ))}
      />
    </div>
  );
}
