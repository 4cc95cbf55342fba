import type { BypassAnswer, ClosingPlanAnswer } from '@idrel/contract/access';
import { rightInWords } from '@idrel/core/access/rights';
import { Checkbox, Group, Radio, Stack } from '@mantine/core';
import { useState } from 'react';
import { count, plural } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { useClosingPlanQuery } from './api.ts';
import { PlanText } from './PlanText.tsx';

const SCOPES = ['these', 'schema', 'all'] as const;
type Scope = (typeof SCOPES)[number];

/** Plans the end of a right: how far, who loses what, and the statements for whoever runs the database. */
export function Closing({ bypass }: { bypass: BypassAnswer }) {
  const [scope, setScope] = useState<Scope>('these');
  const [keepColumns, setKeep] = useState(true);
  const [later, setLater] = useState(true);
  const { sourceId, how, holder, through, schema } = bypass;
  const { data, error, isFetching } = useClosingPlanQuery({
    sourceId,
    how,
    holder,
    through,
    schema,
    scope,
    tableIds: [],
    keepColumns,
    later,
  });
  const scopes: readonly (readonly [Scope, string])[] =
    how === 'grant'
      ? [
          ['these', `The ${plural(bypass.tables, 'table')} of which it opens too much`],
          ['schema', `All that it opens in ${schema}`],
          ['all', `All that it opens at ${bypass.source}`],
        ]
      : how === 'reads all'
        ? [
            [
              'these',
              `The ${plural(bypass.tables, 'table')} of which it opens too much: the rest stays open by rights of its own`,
            ],
            ['all', `All that it opens at ${bypass.source}`],
          ]
        : [];
  return (
    <section className="toolbar stack" aria-label="Plan its end">
      {scopes.length > 0 ? (
        <Group align="flex-start" wrap="wrap" gap={32}>
          <Radio.Group label="What is closed" value={scope} onChange={(value) => setScope(value as Scope)}>
            <Stack gap={6} mt={6}>
              {scopes.map(([value, label]) => (
                <Radio key={value} value={value} label={label} />
              ))}
            </Stack>
          </Radio.Group>
          <Stack gap={6}>
            {scope === 'these' ? (
              <Checkbox
                label="Columns that no policy keeps stay open"
                checked={keepColumns}
                onChange={(event) => setKeep(event.currentTarget.checked)}
              />
            ) : null}
            {how === 'grant' && bypass.later ? (
              <Checkbox
                label="Tables that are made later are closed as well"
                checked={later}
                onChange={(event) => setLater(event.currentTarget.checked)}
              />
            ) : null}
          </Stack>
        </Group>
      ) : null}
      {error ? (
        <Trouble error={error} what="The plan cannot be made" />
      ) : data ? (
        <div className={isFetching ? 'stack fading' : 'stack'}>
          <Plan plan={data} name={bypass.source} />
        </div>
      ) : (
        <p className="quiet">Planning …</p>
      )}
    </section>
  );
}

const usesOf = (used: ClosingPlanAnswer['loses'][number]['used']) => (used ? plural(used.times, 'time') : 'not seen');

function Plan({ plan, name }: { plan: ClosingPlanAnswer; name: string }) {
  if (plan.cannot.length > 0)
    return (
      <div className="notice" role="status">
        {plan.cannot.map((why) => (
          <p key={why}>{why}</p>
        ))}
      </div>
    );
  if (plan.total === 0)
    return (
      <p role="status" className="quiet">
        There is nothing to close: choose more.
      </p>
    );
  return (
    <>
      <p role="status">
        {plural(plan.total, 'step')} {plan.total === 1 ? 'closes' : 'close'} {plural(plan.tables, 'table')}.{' '}
        {plan.loses.length === 0
          ? 'Nobody reads less by it.'
          : `${plural(plan.loses.length, 'login')} would read less.`}
      </p>
      {plan.still.length > 0 ? (
        <div className="notice">
          {plan.still.map(({ login, tables, by }) => (
            <p key={login}>
              <span className="mono">{login}</span> reads {plural(tables, 'of these tables', 'of these tables')} all the
              same: {by.map((right) => rightInWords({ ...right, schema: 'the schema' })).join('; ')}.
            </p>
          ))}
        </div>
      ) : null}
      {plan.loses.length > 0 ? (
        <Listing
          label="Who reads less"
          heads={['Login', 'Who that is', num('Columns'), num('Tables'), num('Of these by policy'), num('Asked for')]}
        >
          {plan.loses.map((row) => (
            <tr key={row.login}>
              <td className="mono">{row.login}</td>
              <td>
                {row.people.length > 0 ? (
                  row.people.map((person) => person.name).join(', ')
                ) : (
                  <span className="quiet">{row.program ? 'a program' : 'nobody said it yet'}</span>
                )}
              </td>
              <td className="num">{count(row.columns)}</td>
              <td className="num">{count(row.tables)}</td>
              <td className="num">{count(row.byPolicy)}</td>
              <td className={row.used ? 'num attention' : 'num quiet'}>{usesOf(row.used)}</td>
            </tr>
          ))}
        </Listing>
      ) : null}
      {plan.cautions.map((caution) => (
        <p key={caution} className="quiet small">
          {caution}
        </p>
      ))}
      <PlanText name={name} text={plan.text} back={plan.back} />
      <p className="quiet small">
        Whoever runs the database runs it, in one transaction. Idrel runs nothing; the next scan says what has become of
        it.
      </p>
    </>
  );
}
