import type { SchemeAnswer, TermLine } from '@idrel/contract/glossary';
import { GLOSSARY_FORMATS, type GlossaryFormat } from '@idrel/core/glossary';
import { Button, Menu, Select } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useRef, useState } from 'react';
import { useAddress, useLatest } from '../app/address.ts';
import { saveFile } from '../app/files.ts';
import { useKeys } from '../app/keys.tsx';
import { sayProblem } from '../app/say.ts';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { ChooseFrom } from '../marks/ChooseFrom.tsx';
import { count, plural } from '../marks/index.tsx';
import { Choice, Pane, Panes } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import {
  useFindTermsQuery,
  useLazyExportGlossaryQuery,
  useSchemesQuery,
  useTermQuery,
  useTermTreeQuery,
} from './api.ts';
import { Conflicts } from './Conflicts.tsx';
import { ImportTerms } from './ImportTerms.tsx';
import { SchemeForm } from './SchemeForm.tsx';
import { TermForm } from './TermForm.tsx';
import { TermsOrTags } from './TermsOrTags.tsx';

const FOUND = 200;
const MOST_OPEN = 300;
type Shown = 'import' | 'conflicts' | 'scheme' | 'new scheme';

/** The glossary: terms below their broader ones at the left, the chosen one at the right. */
export function Component() {
  const [params, put] = useAddress();
  const chosen = params.get('term');
  const schemeId = params.get('scheme');
  const show = params.get('show') as Shown | null;
  const waiting = params.get('status') === 'proposed';
  const here = useLatest(chosen);
  const [search, setSearch] = useState('');
  const [typed] = useDebouncedValue(search.trim(), 120);
  // Nothing opened or closed by hand: the server says what is open.
  const [open, setOpen] = useState<ReadonlySet<string> | null>(null);
  const schemes = useSchemesQuery();
  const tree = useTermTreeQuery({
    ...(schemeId ? { scheme: schemeId } : {}),
    ...(open ? { open: [...open].join(',') } : {}),
  });
  const found = useFindTermsQuery(
    {
      search: typed,
      limit: FOUND,
      ...(schemeId ? { scheme: schemeId } : {}),
      ...(waiting ? { status: 'proposed' as const } : {}),
    },
    { skip: !typed && !waiting },
  );
  const term = useTermQuery(chosen ?? '', { skip: !chosen || chosen === 'new' });
  const may = useMayAnywhere('editor', 'steward');
  const mayMake = useMayAnywhere('steward');
  const scheme = schemes.data?.find(({ id }) => id === schemeId);
  useCrumbs(
    { text: 'Glossary', to: '/glossary' },
    ...(scheme ? [{ text: scheme.name, to: `/glossary?scheme=${scheme.id}` }] : []),
    ...(term.data && chosen === term.data.id ? [{ text: term.data.name }] : []),
  );
  // What is searched for is a list; all of it is a tree.
  const listed = typed !== '' || waiting;
  const lines = listed ? (found.data?.items ?? []) : (tree.data?.lines ?? []);
  const proposed = (schemes.data ?? []).reduce(
    (sum, one) => (one.mayApprove && (!schemeId || one.id === schemeId) ? sum + one.proposed : sum),
    0,
  );
  const choose = (id: string | null) => put({ term: id, show: null });
  // A term below several others stands several times: keys go on from the line that they reached.
  const reached = useRef(-1);
  const at = () =>
    lines[reached.current]?.id === here.now() ? reached.current : lines.findIndex(({ id }) => id === here.now());
  const goTo = (place: number) => {
    const next = lines[Math.max(0, Math.min(lines.length - 1, place))];
    if (!next) return;
    reached.current = lines.indexOf(next);
    choose(here.go(next.id));
  };
  const isOpen = ({ id, narrower }: TermLine) => narrower > 0 && (open ? open.has(id) : tree.data?.open === null);
  const toggle = (line: TermLine, wanted = !isOpen(line)) => {
    if (line.narrower === 0 || isOpen(line) === wanted) return;
    const next = new Set(open ?? (tree.data?.open === null ? lines.filter(isOpen).map(({ id }) => id) : []));
    if (wanted) next.add(line.id);
    else next.delete(line.id);
    // An address holds so many; what was opened longest ago closes.
    setOpen(new Set([...next].slice(-MOST_OPEN)));
  };
  const line = () => lines[at()];
  useKeys('Glossary', [
    { key: 'j', what: 'next term', act: () => goTo(at() + 1) },
    { key: 'k', what: 'term before', act: () => goTo(at() - 1) },
    { key: 'l', what: 'open what lies below', act: () => line() && toggle(line() as TermLine, true) },
    { key: 'h', what: 'close what lies below', act: () => line() && toggle(line() as TermLine, false) },
    { key: 'n', what: 'new term', act: () => may && choose('new') },
  ]);
  const trouble = schemes.error ?? tree.error;
  if (trouble)
    return (
      <Trouble
        error={trouble}
        what="The glossary cannot be shown"
        again={() => {
          void schemes.refetch();
          void tree.refetch();
        }}
      />
    );
  if (!schemes.data || !tree.data) return <Coming />;
  const all = schemes.data;
  const right = () => {
    if (show === 'import') return <ImportTerms schemes={all} done={() => put({ show: null })} />;
    if (show === 'conflicts') return <Conflicts />;
    if (show === 'new scheme')
      return <SchemeForm key="new" scheme={undefined} may={mayMake} done={(id) => put({ show: null, scheme: id })} />;
    if (show === 'scheme' && scheme)
      return (
        <SchemeForm
          key={scheme.id}
          scheme={scheme}
          may={scheme.mayApprove}
          done={(id) => put(id ? {} : { show: null, scheme: null })}
        />
      );
    if (chosen === 'new') return <TermForm key="new" schemes={all} scheme={scheme ?? all[0]} may={may} done={choose} />;
    if (term.error && chosen)
      return <Trouble error={term.error} what="The term cannot be shown" again={() => void term.refetch()} />;
    if (chosen && term.data?.id === chosen)
      return (
        <TermForm key={chosen} term={term.data} schemes={all} scheme={scheme} may={term.data.mayEdit} done={choose} />
      );
    if (chosen) return <Coming />;
    return (
      <Empty title={tree.data?.terms === 0 ? 'No term yet' : 'Choose a term'}>
        <p>
          A term says what a word means here, by which other words the same is called, and which assets carry that
          meaning: what is called one way is found by the others, too.
        </p>
        {tree.data?.terms === 0 && may ? <p>Make one, or take a vocabulary from a file.</p> : null}
      </Empty>
    );
  };
  return (
    <Panes first="330px">
      <ChooseFrom
        title="Glossary"
        make={
          <>
            <GlossaryMenu
              may={may}
              mayMake={mayMake}
              scheme={scheme}
              show={(next) => put({ show: next, term: null })}
            />
            {may ? <Button onClick={() => choose('new')}>New term</Button> : null}
          </>
        }
        above={
          <>
            <TermsOrTags here="terms" />
            {all.length > 1 ? (
              <Select
                aria-label="Scheme"
                placeholder="all schemes"
                clearable
                clearButtonProps={{ 'aria-label': 'All schemes' }}
                data={all.map(({ id, name, terms }) => ({ value: id, label: `${name} · ${count(terms)}` }))}
                value={schemeId}
                onChange={(id) => {
                  setOpen(null);
                  put({ scheme: id });
                }}
              />
            ) : null}
            {waiting || proposed > 0 ? (
              <div>
                <button
                  type="button"
                  className={waiting ? 'chip on' : 'chip'}
                  aria-pressed={waiting}
                  onClick={() => put({ status: waiting ? null : 'proposed' })}
                >
                  {waiting
                    ? 'wait to be agreed to ×'
                    : `${plural(proposed, 'term waits', 'terms wait')} for you to agree`}
                </button>
              </div>
            ) : null}
          </>
        }
        label="terms"
        placeholder="Search terms and other names"
        search={search}
        setSearch={setSearch}
      >
        {lines.map((entry, nth) => (
          <Line
            // A term below two others stands twice.
            key={`${entry.id} ${listed ? '' : placeOf(lines, nth)}`}
            line={entry}
            chosen={entry.id === chosen}
            open={isOpen(entry)}
            choose={() => goTo(nth)}
            toggle={listed ? undefined : () => toggle(entry)}
          />
        ))}
        {listed && found.data && found.data.total === 0 ? (
          <li className="quiet hint">{typed ? 'No label has these words.' : 'None waits to be agreed to.'}</li>
        ) : null}
        {listed && found.data && found.data.total > lines.length ? (
          <li className="quiet hint">and {count(found.data.total - lines.length)} more: write more of it.</li>
        ) : null}
        {!listed && tree.data.more ? <li className="quiet hint">There are more: search, or choose a scheme.</li> : null}
      </ChooseFrom>
      <Pane as="one">{right()}</Pane>
    </Panes>
  );
}

/** Where a line stands: the terms above it. */
function placeOf(lines: readonly TermLine[], at: number): string {
  const way: string[] = [];
  let depth = lines[at]?.depth ?? 0;
  for (let above = at - 1; above >= 0 && depth > 0; above -= 1) {
    const line = lines[above];
    if (line && line.depth < depth) {
      way.unshift(line.id);
      depth = line.depth;
    }
  }
  return way.join(' ');
}

function Line({
  line,
  chosen,
  open,
  choose,
  toggle,
}: {
  line: TermLine;
  chosen: boolean;
  open: boolean;
  choose: () => void;
  toggle: (() => void) | undefined;
}) {
  return (
    <Choice chosen={chosen} choose={choose} depth={line.depth}>
      {toggle && line.narrower > 0 ? (
        // Keys open and close it (h, l): a control within the button of the line would be none.
        // biome-ignore lint/a11y/noStaticElementInteractions: see above
        // biome-ignore lint/a11y/useKeyWithClickEvents: see above
        <span
          className="twist"
          title={open ? 'Close (h)' : `Open ${plural(line.narrower, 'narrower term')} (l)`}
          onClick={(event) => {
            event.stopPropagation();
            toggle();
          }}
        >
          {open ? '▾' : '▸'}
        </span>
      ) : (
        <span className="twist" />
      )}
      <span className={line.status === 'retired' ? 'grow cut standing retiring' : 'grow cut'}>
        {line.name}
        {line.by ? <span className="quiet"> {line.by}</span> : null}
      </span>
      <span className="quiet small">
        {line.status === 'agreed' || line.status === 'retired' ? '' : line.status}
        {line.assets > 0 ? ` ${count(line.assets)}` : ''}
      </span>
    </Choice>
  );
}

/** What is done with the glossary as a whole. */
function GlossaryMenu({
  may,
  mayMake,
  scheme,
  show,
}: {
  may: boolean;
  mayMake: boolean;
  scheme: SchemeAnswer | undefined;
  show: (what: Shown) => void;
}) {
  const [make] = useLazyExportGlossaryQuery();
  const save = async (format: GlossaryFormat) => {
    try {
      saveFile(await make({ format, ...(scheme ? { scheme: scheme.id } : {}) }).unwrap());
    } catch (error) {
      sayProblem(error, 'The glossary was not exported');
    }
  };
  return (
    <Menu position="bottom-start" shadow="none" withinPortal>
      <Menu.Target>
        <Button variant="default">More</Button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item onClick={() => show('conflicts')}>What is amiss</Menu.Item>
        {may ? <Menu.Item onClick={() => show('import')}>Terms from a file</Menu.Item> : null}
        <Menu.Divider />
        <Menu.Label>{scheme ? `${scheme.name} as a file` : 'All terms as a file'}</Menu.Label>
        {(Object.keys(GLOSSARY_FORMATS) as GlossaryFormat[]).map((format) => (
          <Menu.Item key={format} onClick={() => void save(format)}>
            {GLOSSARY_FORMATS[format]}
          </Menu.Item>
        ))}
        <Menu.Divider />
        {scheme ? <Menu.Item onClick={() => show('scheme')}>The scheme {scheme.name}</Menu.Item> : null}
        {mayMake ? <Menu.Item onClick={() => show('new scheme')}>New scheme</Menu.Item> : null}
      </Menu.Dropdown>
    </Menu>
  );
}
