import type { GlossaryChange, SchemeAnswer } from '@idrel/contract/glossary';
import { COMPARED, GLOSSARY_FORMATS } from '@idrel/core/glossary';
import { Button, Checkbox, FileButton, Group, Select, Stack } from '@mantine/core';
import { useRef, useState } from 'react';
import { sayDone } from '../app/say.ts';
import { Changes } from '../forms/Changes.tsx';
import { Flaws, More } from '../forms/Flaws.tsx';
import { type TakenIn, useTakenIn } from '../forms/useTakenIn.ts';
import { count, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { useImportGlossaryMutation, usePreviewGlossaryMutation } from './api.ts';

/** Terms from a file: what would come of it is shown before anything is written, and each change can be left. */
export function ImportTerms({ schemes, done }: { schemes: readonly SchemeAnswer[]; done: () => void }) {
  const [preview] = usePreviewGlossaryMutation();
  const [take] = useImportGlossaryMutation();
  const [schemeId, setSchemeId] = useState(schemes[0]?.id ?? '');
  const scheme = useRef(schemeId);
  const given = (file: TakenIn) => ({ ...file, ...(scheme.current ? { schemeId: scheme.current } : {}) });
  const file = useTakenIn<GlossaryChange>({
    preview: (body) => preview(given(body)).unwrap(),
    take: (body) => take(given(body)).unwrap(),
    done: (told) => {
      sayDone(`${plural(told.freshCount, 'term')} taken in, ${count(told.changedCount)} changed.`);
      done();
    },
  });
  const { read, left } = file;
  const toggle = (at: string) => file.leave([at], !left.has(at));
  const told = read?.told;
  const changes = told ? told.freshCount + told.changedCount : 0;
  return (
    <Stack maw={860}>
      <h2>Terms from a file</h2>
      <p className="quiet">
        {Object.values(GLOSSARY_FORMATS).join(', ')}. What the file does not speak of stays as it is; nothing is
        removed. Export the glossary to see how a sheet is laid out.
      </p>
      <Group align="flex-end">
        <Select
          label="Scheme, where the file does not say it"
          w={300}
          allowDeselect={false}
          data={schemes.map(({ id, name }) => ({ value: id, label: name }))}
          value={schemeId || null}
          onChange={(id) => {
            if (!id) return;
            setSchemeId(id);
            scheme.current = id;
            file.again();
          }}
        />
        <FileButton onChange={file.choose} accept=".ttl,.nt,.jsonld,.json,.csv,.xlsx">
          {(props) => (
            <Button {...props} variant="default" loading={file.busy && !read}>
              {read ? 'Choose another file' : 'Choose a file'}
            </Button>
          )}
        </FileButton>
        {read ? <span className="mono small">{read.name}</span> : null}
      </Group>
      <ProblemNotice problem={file.problem} />
      {told ? (
        <section aria-label="What the file would change" className="stack">
          <p role="status">
            {plural(told.freshCount, 'term')} new, {count(told.changedCount)} changed, {count(told.same)} the same
            {told.schemes.length > 0 ? `; new schemes: ${told.schemes.join(', ')}` : ''}.
          </p>
          <Group>
            <Button onClick={() => void file.finish()} loading={file.busy} disabled={changes - left.size <= 0}>
              Take in {plural(changes - left.size, 'term')}
            </Button>
            {left.size > 0 ? <span className="quiet small">{count(left.size)} left as they are</span> : null}
          </Group>
          <Flaws flaws={told.flaws} total={told.flawCount} notKept={told.notKept} />
          <Changes
            label="Terms that are changed"
            called="Term"
            changed={told.changed.map(({ fields, ...term }) => ({
              ...term,
              fields: fields.map((entry) => ({ ...entry, field: COMPARED[entry.field] })),
            }))}
            total={told.changedCount}
            left={left}
            leave={file.leave}
          />
          <Fresh told={told} left={left} toggle={toggle} />
        </section>
      ) : null}
    </Stack>
  );
}

interface Part {
  readonly told: GlossaryChange;
  readonly left: ReadonlySet<string>;
  readonly toggle: (at: string) => void;
}
function Fresh({ told, left, toggle }: Part) {
  if (told.fresh.length === 0) return null;
  return (
    <div>
      <h3 className="under">New</h3>
      <Listing label="Terms that are new" heads={['Take', 'Term', 'Definition', 'Below']}>
        {told.fresh.map(({ at, name, definition, broader }) => (
          <tr key={at}>
            <td>
              <Checkbox aria-label={`Take ${name}`} checked={!left.has(at)} onChange={() => toggle(at)} />
            </td>
            <td>{name}</td>
            <td>{definition}</td>
            <td className="quiet">{broader.join(', ')}</td>
          </tr>
        ))}
      </Listing>
      <More total={told.freshCount} shown={told.fresh.length} />
    </div>
  );
}
