import type { DirectoryChange } from '@idrel/contract/people';
import { Button, Checkbox, Group, Stack } from '@mantine/core';
import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { useSessionQuery } from '../app/api.ts';
import { saveFile } from '../app/files.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { Changes } from '../forms/Changes.tsx';
import { ChooseFile } from '../forms/ChooseFile.tsx';
import { Flaws, More } from '../forms/Flaws.tsx';
import { type Leaving, Take } from '../forms/Take.tsx';
import { useTakenIn } from '../forms/useTakenIn.ts';
import { count, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { useImportPeopleMutation, usePreviewPeopleMutation, useTakePeopleOutMutation } from './api.ts';

const people = (n: number) => plural(n, 'person', 'people');

/** People from a file of the organisation's directory: what would come of it is shown before anything is written, and each change can be left. */
export function DirectoryFile({ done }: { done: () => void }) {
  const mail = useSessionQuery().data?.ways.mail ?? false;
  const [preview] = usePreviewPeopleMutation();
  const [take] = useImportPeopleMutation();
  const [out] = useTakePeopleOutMutation();
  const [inviting, setInviting] = useState(false);
  const invite = useRef(false);
  const file = useTakenIn<DirectoryChange>({
    preview: (body) => preview(body).unwrap(),
    take: (body) => take({ ...body, invite: invite.current }).unwrap(),
    done: (told) => {
      sayDone(
        `${people(told.freshCount)} taken in, ${count(told.changedCount)} changed${told.invited > 0 ? `; ${people(told.invited)} invited` : ''}.`,
      );
      done();
    },
  });
  const { read, left } = file;
  const told = read?.told;
  const changes = told ? told.freshCount + told.changedCount : 0;
  const save = (format: 'csv' | 'xlsx') =>
    void out(format)
      .unwrap()
      .then(saveFile, (error: unknown) => sayProblem(error, 'No file was written'));
  return (
    <Stack maw={860}>
      <h2>People from a file</h2>
      <p className="quiet">
        CSV or XLSX with the columns e-mail, name, job, groups. People are known by their e-mail addresses; columns that
        are not there stay as they are, and several groups in a cell are parted by strokes or semicolons. Nobody is
        removed, and no role is given or taken.
      </p>
      <ChooseFile file={file} accept=".csv,.xlsx">
        <Button variant="default" onClick={() => save('csv')}>
          Everybody as CSV
        </Button>
        <Button variant="default" onClick={() => save('xlsx')}>
          as XLSX
        </Button>
      </ChooseFile>
      {told ? (
        <section aria-label="What the file would change" className="stack">
          <p role="status">
            {people(told.freshCount)} new, {count(told.changedCount)} changed, {count(told.same)} the same.
          </p>
          {told.freshCount > 0 && mail ? (
            <Checkbox
              label="Send those who are new a link to set a password"
              checked={inviting}
              onChange={(event) => {
                setInviting(event.currentTarget.checked);
                invite.current = event.currentTarget.checked;
              }}
            />
          ) : null}
          <Group>
            <Button onClick={() => void file.finish()} loading={file.busy} disabled={changes - left.size <= 0}>
              Take in {people(changes - left.size)}
            </Button>
            {left.size > 0 ? <span className="quiet small">{count(left.size)} left as they are</span> : null}
          </Group>
          <Flaws flaws={told.flaws} total={told.flawCount} notKept={told.notKept} />
          <Changes
            label="People of whom something changes"
            called="Person"
            changed={told.changed}
            total={told.changedCount}
            left={left}
            leave={file.leave}
          />
          <Fresh told={told} left={left} leave={file.leave} />
          <Absent told={told} />
        </section>
      ) : null}
    </Stack>
  );
}

function Fresh({ told, left, leave }: Leaving & { told: DirectoryChange }) {
  if (told.fresh.length === 0) return null;
  return (
    <div>
      <h3 className="under">New</h3>
      <Listing label="People who are new" heads={['Take', 'Name', 'E-mail', 'Job', 'Groups']}>
        {told.fresh.map(({ at, name, email, job, groups }) => (
          <tr key={at}>
            <td>
              <Take at={at} what={name} left={left} leave={leave} />
            </td>
            <td>{name}</td>
            <td>{email}</td>
            <td className="quiet">{job}</td>
            <td className="quiet">{groups.join(', ')}</td>
          </tr>
        ))}
      </Listing>
      <More total={told.freshCount} shown={told.fresh.length} />
    </div>
  );
}

/** A file may be a part of the organisation, so nobody is taken for gone. */
function Absent({ told }: { told: DirectoryChange }) {
  if (told.absent.length === 0) return null;
  return (
    <div>
      <h3 className="under">Not in the file</h3>
      <p>
        {people(told.absentCount)} of Idrel {told.absentCount === 1 ? 'is' : 'are'} not in it, and stay as they are. Who
        has left is let go on their own page, where what they hold is passed on:{' '}
        {told.absent.map(({ id, name }, nth) => (
          <span key={id}>
            {nth > 0 ? ', ' : ''}
            <Link to={`/settings/people?person=${id}`}>{name}</Link>
          </span>
        ))}
        .
      </p>
    </div>
  );
}
