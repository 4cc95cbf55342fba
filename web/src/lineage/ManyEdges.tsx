import type { EdgesTaken } from '@idrel/contract/lineage';
import { Button, Checkbox, FileButton, Group, Stack, Textarea } from '@mantine/core';
import { Link } from 'react-router';
import { sayDone } from '../app/say.ts';
import { Flaws } from '../forms/Flaws.tsx';
import { useKeptText } from '../forms/useKeptText.ts';
import { useTakenIn } from '../forms/useTakenIn.ts';
import { count, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { usePreviewEdgesMutation, useTakeEdgesMutation } from './api.ts';

/** Many edges at once, pasted from a spreadsheet or from a file: what would become of each is shown before anything is said. */
export function Component() {
  useCrumbs({ text: 'Lineage', to: '/lineage' }, { text: 'Many edges' });
  const [preview] = usePreviewEdgesMutation();
  const [take] = useTakeEdgesMutation();
  const [pasted, put] = useKeptText('many edges');
  const sheet = useTakenIn<EdgesTaken>({
    preview: (body) => preview(body).unwrap(),
    take: (body) => take(body).unwrap(),
    done: (told) => {
      sayDone(`${plural(told.said, 'edge')} said${told.refused > 0 ? `; ${count(told.refused)} refused` : ''}.`);
      put('');
    },
    leftAtFirst: (told) => told.rows.filter(({ state }) => state === 'refused').map(({ at }) => at),
  });
  const told = sheet.read?.told;
  const willSay =
    told?.rows.filter(({ at, state }) => !sheet.left.has(at) && (state === 'said' || state === 'changed')).length ?? 0;
  return (
    <Stack className="page" maw={980}>
      <h1>Many edges</h1>
      <p className="quiet">
        A line for each edge, with the columns from, to, what happens (copied, transformed, aggregated, masked), through
        and note. Ends are readable addresses, as <em>Readable link</em> on an asset’s page copies them, or shortened:{' '}
        <span className="mono">Warehouse/core/passenger/email</span>. What is not in the catalog is added{' '}
        <Link to="/lineage">in the picture</Link> first.
      </p>
      <Textarea
        label="Pasted from a spreadsheet, or written as CSV"
        autosize
        minRows={4}
        maxRows={14}
        value={pasted}
        onChange={(event) => put(event.currentTarget.value)}
      />
      <Group>
        <Button
          disabled={pasted.trim() === ''}
          loading={sheet.busy && !sheet.read}
          onClick={() => sheet.choose(new File([pasted], 'pasted.csv'))}
        >
          Look at it
        </Button>
        <FileButton onChange={sheet.choose} accept=".csv,.xlsx">
          {(props) => (
            <Button {...props} variant="default">
              Choose a file
            </Button>
          )}
        </FileButton>
        {sheet.read ? <span className="mono small">{sheet.read.name}</span> : null}
      </Group>
      <ProblemNotice problem={sheet.problem} />
      {told ? (
        <section aria-label="What would become of the edges" className="stack">
          <p role="status">
            {count(told.said)} new or changed, {count(told.same)} known already, {count(told.refused)} refused.
          </p>
          <Group>
            <Button onClick={() => void sheet.finish()} loading={sheet.busy} disabled={willSay === 0}>
              Say {plural(willSay, 'edge')}
            </Button>
          </Group>
          <Flaws flaws={told.flaws} total={told.flaws.length} notKept={told.notKept} />
          {told.rows.length > 0 ? (
            <Listing label="Edges" heads={['Say', 'Line', 'From', 'To', 'What happens', 'What becomes of it']}>
              {told.rows.map(({ at, from, to, kind, state, why, mend }) => (
                <tr key={at}>
                  <td>
                    <Checkbox
                      aria-label={`Say the edge of ${at}`}
                      disabled={state === 'refused'}
                      checked={!sheet.left.has(at)}
                      onChange={() => sheet.leave([at], !sheet.left.has(at))}
                    />
                  </td>
                  <td className="quiet small">{at}</td>
                  <td className="mono small">{from.replace(/^\/at\//, '')}</td>
                  <td className="mono small">{to.replace(/^\/at\//, '')}</td>
                  <td>{kind}</td>
                  <td>
                    <span className={state === 'refused' ? 'attention' : ''}>{STATES[state]}</span>
                    {why ? (
                      <div className="small">
                        {why} <span className="quiet">{mend}</span>
                      </div>
                    ) : null}
                  </td>
                </tr>
              ))}
            </Listing>
          ) : null}
        </section>
      ) : null}
    </Stack>
  );
}

const STATES: Record<EdgesTaken['rows'][number]['state'], string> = {
  said: 'is new',
  changed: 'is said otherwise',
  'as it was': 'is said already',
  'found already': 'is found by a scan',
  refused: 'is refused',
};
