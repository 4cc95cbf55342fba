import type { PolicyFilePlan } from '@idrel/contract/access';
import { Button, Checkbox, Group, Stack } from '@mantine/core';
import { useRef, useState } from 'react';
import { saveFile } from '../app/files.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { Changes } from '../forms/Changes.tsx';
import { ChooseFile } from '../forms/ChooseFile.tsx';
import { Flaws, More } from '../forms/Flaws.tsx';
import { type Leaving, Take } from '../forms/Take.tsx';
import { useTakenIn } from '../forms/useTakenIn.ts';
import { count, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { useImportPoliciesMutation, usePlanPoliciesMutation, usePoliciesOutMutation } from './api.ts';
import { WhoReads } from './WhoReads.tsx';

const policies = (n: number) => plural(n, 'policy', 'policies');
const SHOWN = 100;

/** Policies as a file, out and in: what a file would change, and for whom, is shown before anything is written. */
export function PolicyFile({ done }: { done: () => void }) {
  const [preview] = usePlanPoliciesMutation();
  const [take] = useImportPoliciesMutation();
  const [out] = usePoliciesOutMutation();
  const [removing, setRemoving] = useState(false);
  const remove = useRef(false);
  const file = useTakenIn<PolicyFilePlan>({
    preview: (body) => preview({ ...body, removeAbsent: remove.current }).unwrap(),
    take: (body) => take({ ...body, removeAbsent: remove.current }).unwrap(),
    done: ({ fresh, changed, removed }) => {
      sayDone(
        `${policies(fresh.length)} taken in, ${count(changed.length)} changed${removed > 0 ? `, ${count(removed)} removed` : ''}.`,
      );
      done();
    },
  });
  const { read, left } = file;
  const told = read?.told;
  const changes = told ? told.fresh.length + told.changed.length - left.size + told.removed : 0;
  const save = (format: 'yaml' | 'odrl') =>
    void out(format)
      .unwrap()
      .then(saveFile, (error: unknown) => sayProblem(error, 'No file was written'));
  return (
    <Stack maw={980} component="section" aria-label="Policies as a file">
      <h2>Policies as a file</h2>
      <p className="quiet">
        The policies that you may change, by names: YAML to be kept in a repository, or ODRL (JSON-LD). Either comes
        back in the same way, here or by <code>idrel policies plan</code> and <code>apply</code>. Policies are known by
        their names; those that the file does not have stay, unless you say otherwise.
      </p>
      <ChooseFile
        file={file}
        accept=".yaml,.yml,.json,.jsonld"
        also={
          <Button variant="subtle" onClick={done}>
            Leave it
          </Button>
        }
      >
        <Button variant="default" onClick={() => save('yaml')}>
          All as YAML
        </Button>
        <Button variant="default" onClick={() => save('odrl')}>
          as ODRL
        </Button>
      </ChooseFile>
      {told ? (
        <section aria-label="What the file would change" className="stack">
          <p role="status">
            {policies(told.fresh.length)} new, {count(told.changed.length)} changed, {count(told.removed)} removed,{' '}
            {count(told.same)} the same.
          </p>
          {told.absent.length > 0 ? (
            <Checkbox
              label={`Remove ${policies(told.absent.length)} that the file does not have: ${told.absent.slice(0, 5).join(', ')}${told.absent.length > 5 ? ' …' : ''}`}
              description={
                told.flaws.length > 0
                  ? 'Not while something in the file cannot be taken: it may be one of these.'
                  : null
              }
              disabled={told.flaws.length > 0}
              checked={removing}
              onChange={(event) => {
                setRemoving(event.currentTarget.checked);
                remove.current = event.currentTarget.checked;
                file.again();
              }}
            />
          ) : null}
          <Group>
            <Button onClick={() => void file.finish()} loading={file.busy} disabled={changes <= 0}>
              Change {policies(changes)}
            </Button>
            {left.size > 0 ? <span className="quiet small">{count(left.size)} left as they are</span> : null}
          </Group>
          <Flaws flaws={told.flaws} total={told.flaws.length} notKept={[]} />
          <Changes
            label="Policies that change"
            called="Policy"
            changed={told.changed}
            total={told.changed.length}
            left={left}
            leave={file.leave}
          />
          <Fresh told={told} left={left} leave={file.leave} />
          <Effect told={told} />
        </section>
      ) : null}
    </Stack>
  );
}

function Fresh({ told, left, leave }: Leaving & { told: PolicyFilePlan }) {
  if (told.fresh.length === 0) return null;
  return (
    <div>
      <h3 className="under">New</h3>
      <Listing label="Policies that are new" heads={['Take', 'Policy', 'Effect', 'Where']}>
        {told.fresh.map(({ at, name, effect }) => (
          <tr key={at}>
            <td>
              <Take at={at} what={name} left={left} leave={leave} />
            </td>
            <td>{name}</td>
            <td>{effect}</td>
            <td className="quiet small">{at}</td>
          </tr>
        ))}
      </Listing>
    </div>
  );
}

/** Who would gain or lose what by the whole file. */
function Effect({ told: { fresh, changed, removed, reach } }: { told: PolicyFilePlan }) {
  if (fresh.length + changed.length + removed === 0) return null;
  const { people, tables, gains, losses, masked, sensitive, rows, limited, used, sight } = reach;
  if (people === 0 && limited.length === 0 && sight.rows.length === 0)
    return <p>By the whole file nobody would read anything otherwise.</p>;
  return (
    <div>
      <h3 className="under">By the whole file</h3>
      <p>
        {plural(people, 'person', 'people')}, {plural(tables, 'table')}: {plural(gains, 'column')} gained,{' '}
        {count(losses)} lost, {count(masked)} masked; <strong>{count(sensitive)} of them sensitive</strong>.
      </p>
      {used.length > 0 ? (
        <p className="notice">
          Somebody would lose what they asked for in the last 30 days:{' '}
          {used
            .slice(0, 5)
            .map(({ person, table, column }) => `${person} ${table}${column === null ? '' : `.${column}`}`)
            .join(', ')}
          {used.length > 5 ? ` and ${count(used.length - 5)} more` : ''}.
        </p>
      ) : null}
      {sight.rows.slice(0, SHOWN).map(({ personId, assetId, person, path, comes }) => (
        <p key={`${personId} ${assetId}`}>
          {person} {comes ? 'comes to see' : 'sees no more'} the page of <span className="mono">{path}</span>.
        </p>
      ))}
      <More total={sight.rows.length} shown={Math.min(sight.rows.length, SHOWN)} />
      {limited.slice(0, SHOWN).map(({ personId, tableId, person, table, after }) => (
        <p key={`${personId} ${tableId}`}>
          {person} reads {after.length > 0 ? after.join(' and ') : 'all rows'} of <span className="mono">{table}</span>.
        </p>
      ))}
      <WhoReads rows={rows.slice(0, SHOWN)} levels />
      <More total={rows.length} shown={Math.min(rows.length, SHOWN)} />
    </div>
  );
}
