import type { AssetRow } from '@idrel/contract/catalog';
import type { PastedTexts as Pasted } from '@idrel/core/catalog';
import { Button, Checkbox, Group } from '@mantine/core';
import { useEffect, useRef, useState } from 'react';
import { sayDone, sayProblem } from '../app/say.ts';
import { useDescribeAssetsMutation } from '../catalog/index.ts';
import { plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';

/** Texts that were pasted over a list: what goes where is shown before anything is written, and each can be left. */
export function PastedTexts({ pasted, rows, done }: { pasted: Pasted; rows: readonly AssetRow[]; done: () => void }) {
  const [describe, { isLoading }] = useDescribeAssetsMutation();
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const { placed, same, left: nowhere, byName } = pasted;
  const versions = new Map(rows.map(({ id, version }) => [id, version]));
  const taken = placed.filter(({ id }) => !left.has(id));
  const replaced = taken.filter(({ before }) => before !== '').length;
  const write = async () => {
    try {
      const { saved, refused } = await describe({
        texts: taken.map(({ id, after }) => ({ id, version: versions.get(id) ?? 0, description: after })),
      }).unwrap();
      const before = new Map(placed.map((text) => [text.id, text.before]));
      sayDone(
        `${plural(saved.length, 'meaning')} written${refused.length > 0 ? `; ${refused.map(({ name }) => name).join(', ')} ${refused.length === 1 ? 'was' : 'were'} changed by somebody else meanwhile, and left` : ''}.`,
        saved.length > 0
          ? () =>
              describe({
                texts: saved.map(({ id, version }) => ({ id, version, description: before.get(id) ?? '' })),
              }).unwrap()
          : undefined,
      );
      done();
    } catch (error) {
      sayProblem(error, 'Nothing was written');
    }
  };
  const panel = useRef<HTMLElement>(null);
  // It stands above a list that may be long, and was called for from within it.
  useEffect(() => {
    panel.current?.scrollIntoView({ block: 'start' });
    panel.current?.focus();
  }, []);
  const toggle = (id: string) =>
    setLeft((was) => {
      const next = new Set(was);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  return (
    <section ref={panel} tabIndex={-1} aria-label="What was pasted" className="stack">
      <h3 className="under">What was pasted</h3>
      <p role="status">
        {plural(placed.length, 'text')} {byName ? 'by the names before them' : 'one below the other'}
        {replaced > 0 ? `; ${plural(replaced, 'of them replaces', 'of them replace')} what stands there` : ''}
        {same > 0 ? `; ${plural(same, 'is', 'are')} so already` : ''}.
        {nowhere.length > 0 ? ` No place for: ${nowhere.slice(0, 5).join(', ')}${nowhere.length > 5 ? ' …' : ''}.` : ''}
      </p>
      <Group>
        <Button onClick={() => void write()} loading={isLoading} disabled={taken.length === 0}>
          Write {plural(taken.length, 'meaning')}
        </Button>
        <Button variant="default" onClick={done}>
          Leave all as it was
        </Button>
      </Group>
      <Listing label="Where each goes" heads={['Take', 'Name', 'Now', 'Pasted']}>
        {placed.map(({ id, name, before, after }) => (
          <tr key={id} className="tall">
            <td>
              <Checkbox
                aria-label={`Take the meaning of ${name}`}
                checked={!left.has(id)}
                onChange={() => toggle(id)}
              />
            </td>
            <td className="mono">{name}</td>
            <td className="said">{before || <span className="quiet">nothing</span>}</td>
            <td className="said">{after}</td>
          </tr>
        ))}
      </Listing>
    </section>
  );
}
