import type { SheetChange } from '@idrel/contract/curation';
import { Button, Checkbox, Group } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayDone } from '../app/say.ts';
import { ChooseFile } from '../forms/ChooseFile.tsx';
import { Flaws, More } from '../forms/Flaws.tsx';
import { useTakenIn } from '../forms/useTakenIn.ts';
import { count, Name, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { usePreviewSheetMutation, useTakeSheetMutation } from './sheetsApi.ts';

const keyOf = ({ at, field }: SheetChange['cells'][number]) => `${at} ${field}`;
/** What may be a newer edit of somebody else is left, unless it is chosen. */
const leftAtFirst = (told: SheetChange): string[] => told.cells.filter(({ newer }) => newer).map(keyOf);

/** A sheet of assets taken back: each cell that differs is shown before anything is written, and can be left. */
export function Component() {
  useCrumbs({ text: 'Catalog', to: '/catalog' }, { text: 'A sheet back' });
  const [preview] = usePreviewSheetMutation();
  const [take] = useTakeSheetMutation();
  const [done, setDone] = useState<SheetChange>();
  const file = useTakenIn<SheetChange>({
    preview: (body) => {
      setDone(undefined);
      return preview(body).unwrap();
    },
    take: (body) => take(body).unwrap(),
    done: (told) => {
      sayDone(`${plural(told.changed, 'asset')} changed.`);
      setDone(told);
    },
    leftAtFirst,
  });
  const { read, left } = file;
  const told = read?.told;
  const taken = told ? told.cellCount - left.size : 0;
  const newer = told?.cells.filter((cell) => cell.newer) ?? [];
  return (
    <div className="page stack">
      <h1>A sheet back</h1>
      <p className="quiet">
        Take assets out of the <Link to="/catalog">catalog</Link> under <i>Sheet</i>, or what a change would do from its
        page; write into description, owners, stewards, custodians, terms, tags, standing, notices and remark, and bring
        the sheet back. Several values in a cell are parted by strokes. Columns that you leave out stay as they are; an
        emptied cell empties, but takes no notice and no remark away. A notice is written as{' '}
        <span className="mono small">caution 2027-01-01 to 2027-01-31: what is to be known</span>, with or without days;
        a remark begins a discussion.
      </p>
      <ChooseFile file={file} accept=".csv,.xlsx" called="sheet" />
      {told ? (
        <section aria-label="What the sheet would change" className="stack">
          <h2>What the sheet would change</h2>
          <p role="status">
            {plural(told.cellCount, 'cell')} of {plural(told.assets, 'asset')} differ; {plural(told.same, 'line')} say
            what stands there already.
          </p>
          {newer.length > 0 ? (
            <p className="notice calm">
              {plural(newer.length, 'cell')} {newer.length === 1 ? 'differs' : 'differ'} on assets that somebody changed
              since the sheet was made: the catalog may hold the newer word. They are left unless you take them.
            </p>
          ) : null}
          <Group>
            <Button onClick={() => void file.finish()} loading={file.busy} disabled={taken <= 0}>
              Take in {plural(taken, 'cell')}
            </Button>
            {left.size > 0 ? <span className="quiet small">{count(left.size)} left as they are</span> : null}
          </Group>
          <Flaws flaws={told.flaws} total={told.flawCount} notKept={told.notKept} />
          {told.cells.length > 0 ? <Cells told={told} left={left} toggle={file.leave} /> : null}
        </section>
      ) : null}
      {done ? (
        <section aria-label="What was done" className="stack">
          <p role="status">{plural(done.changed, 'asset')} changed. Each change stands in the history of its asset.</p>
          {done.refused.length > 0 ? (
            <Listing label="Assets that stay as they are" heads={['Where', 'Asset', 'Why it stays as it is']}>
              {done.refused.map(({ at, path, why }) => (
                <tr key={at}>
                  <td className="mono small">{at}</td>
                  <td className="mono">{path}</td>
                  <td>{why}</td>
                </tr>
              ))}
            </Listing>
          ) : null}
        </section>
      ) : null}
    </div>
  );
}

function Cells({
  told,
  left,
  toggle,
}: {
  told: SheetChange;
  left: ReadonlySet<string>;
  toggle: (keys: readonly string[], leave: boolean) => void;
}) {
  const keys = told.cells.map(keyOf);
  const all = keys.every((key) => !left.has(key));
  return (
    <div>
      <Checkbox label="All cells" checked={all} onChange={() => toggle(keys, all)} mb={6} />
      <Listing label="Cells that differ" heads={['Take', 'Asset', 'Field', 'Now', 'In the sheet', 'Since']}>
        {told.cells.map((cell) => {
          const key = keyOf(cell);
          return (
            <tr key={key} className="tall">
              <td>
                <Checkbox
                  aria-label={`Take ${cell.field} of ${cell.path}`}
                  checked={!left.has(key)}
                  onChange={() => toggle([key], !left.has(key))}
                />
              </td>
              <td>
                <Link to={`/assets/${cell.id}`}>
                  <Name text={cell.path} most={36} />
                </Link>
              </td>
              <td className="quiet">{cell.field}</td>
              <td className="said">{cell.before || <span className="quiet">nothing</span>}</td>
              <td className="said">{cell.after || <span className="quiet">nothing</span>}</td>
              <td className="small">{cell.newer ? 'changed' : ''}</td>
            </tr>
          );
        })}
      </Listing>
      <More total={told.cellCount} shown={told.cells.length} />
    </div>
  );
}
