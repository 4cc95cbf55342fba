import type { EnforcingPlanAnswer } from '@idrel/contract/access';
import { Button, Group } from '@mantine/core';
import { problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { Code } from '../marks/Code.tsx';
import { plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { useEnforceMutation, useEnforcingPlanQuery } from './api.ts';
import { EnforcedReaders } from './EnforcedReaders.tsx';
import { PlanText } from './PlanText.tsx';

/** What would be made at a source, for whom, what the role lacks for it, and the statements. */
export function EnforcingPlan({ id, name, done }: { id: string; name: string; done: () => void }) {
  const { data, error, isFetching, refetch } = useEnforcingPlanQuery(id);
  const [enforce, { isLoading }] = useEnforceMutation();
  const make = (digest: string) =>
    void enforce({ id, body: { digest } })
      .unwrap()
      .then(
        () => {
          sayDone(`${name} holds the policies itself.`);
          done();
        },
        (problem: unknown) => {
          sayProblem(problem, 'Nothing was made');
          // Something else would be made now: it is shown.
          if (problemOf(problem)?.status === 409) void refetch();
        },
      );
  return (
    <section className="toolbar stack" aria-label="The plan">
      {error ? (
        <Trouble error={error} what="The plan cannot be made" again={() => void refetch()} />
      ) : data ? (
        <div className={isFetching ? 'stack fading' : 'stack'}>
          <Summary plan={data} />
          <Group>
            <Button
              loading={isLoading}
              disabled={data.needs.length > 0 || data.same || isFetching || data.total === 0}
              onClick={() => make(data.digest)}
            >
              Make it
            </Button>
            <Button variant="default" onClick={done}>
              Leave it
            </Button>
            <span className="quiet small">
              {data.same ? 'It stands there so already.' : 'In one transaction: all of it, or nothing.'}
            </span>
          </Group>
          <Plan plan={data} name={name} />
        </div>
      ) : (
        <p className="quiet">Planning …</p>
      )}
    </section>
  );
}

function Summary({ plan }: { plan: EnforcingPlanAnswer }) {
  const tables = plan.readers.reduce((sum, { rights, views }) => sum + rights + views, 0);
  return (
    <>
      <p role="status">
        {plan.readers.length === 0
          ? 'The policies open nothing there to anybody who comes in by a login of the database.'
          : `${plural(plan.readers.length, 'role')} of readers, ${plural(tables, 'table')} in all.`}
      </p>
      {plan.needs.length > 0 ? (
        <div className="notice stack">
          <strong>The role lacks what it takes to make this</strong>
          {plan.needs.map(({ what }) => (
            <p key={what}>{what}</p>
          ))}
          <Code text={plan.needs.map(({ sql }) => sql).join('\n')} language="sql" />
        </div>
      ) : null}
    </>
  );
}

/** Which role sees a table how, and what is hidden of it. */
function Plan({ plan, name }: { plan: EnforcingPlanAnswer; name: string }) {
  return (
    <>
      {plan.wants.length > 0 ? (
        <details>
          <summary>What the role could do more with</summary>
          <div className="stack">
            {plan.wants.map(({ what, sql }) => (
              <div key={what}>
                <p>{what}</p>
                <Code text={sql} language="sql" />
              </div>
            ))}
          </div>
        </details>
      ) : null}
      {plan.cautions.map((caution) => (
        <p key={caution} className="quiet small">
          {caution}
        </p>
      ))}
      {plan.readers.length > 0 ? <EnforcedReaders readers={plan.readers} label="Who would read by it" /> : null}
      {plan.tables.length > 0 ? (
        <details>
          <summary>Table by table</summary>
          <Listing label="Table by table" heads={['Table', 'Asked for as', 'By', 'What is hidden']}>
            {plan.tables.map(({ role, table, name: as, how, told }) => (
              <tr key={`${role} ${table}`}>
                <td className="mono">{table}</td>
                <td className="mono">{as}</td>
                <td>
                  {how === 'right' ? 'a right on it' : 'a view'} <span className="quiet small">of {role}</span>
                </td>
                <td>{told || <span className="quiet">nothing</span>}</td>
              </tr>
            ))}
          </Listing>
        </details>
      ) : null}
      {plan.without.length > 0 ? (
        <details>
          <summary>{plural(plan.without.length, 'table')} that policies open and that stay closed there</summary>
          <ul>
            {plan.without.map(({ table, why }) => (
              <li key={table}>
                <span className="mono">{table}</span>: {why}
              </li>
            ))}
          </ul>
        </details>
      ) : null}
      {plan.total > 0 ? <PlanText name={`${name}, held there`} text={plan.text} back={plan.back} /> : null}
    </>
  );
}
