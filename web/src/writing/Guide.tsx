import type { AssetAnswer } from '@idrel/contract/catalog';
import type { GuideAnswer } from '@idrel/contract/writing';
import { mergedText, mergeWritten } from '@idrel/core/writing';
import { Button, CopyButton, Group, Stack, Textarea } from '@mantine/core';
import { lazy, Suspense, useEffect, useState } from 'react';
import { sayDone } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { type EditForm, useEditForm } from '../forms/useEditForm.ts';
import { When } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { Sides } from './Sides.tsx';
import { Versions } from './Versions.tsx';
import { Written } from './Written.tsx';
import { useGuideQuery, useSaveGuideMutation, useWritersHereMutation } from './writingApi.ts';

const Editor = lazy(() => import('./Editor.tsx').then(({ Editor }) => ({ default: Editor })));

interface Text {
  text: string;
}
const textOf = ({ text }: GuideAnswer): Text => ({ text });

/** What two people wrote in one guide at once, where they changed other paragraphs. */
function joinTexts(base: unknown, mine: unknown, theirs: unknown): string | undefined {
  const parts = mergeWritten(String(base), String(mine), String(theirs));
  return parts.every(({ settled }) => settled) ? mergedText(parts, () => '') : undefined;
}
const JOINERS = { text: joinTexts };

/** The guide of an asset: what there is to know of it at length, written where it stands. Give it the asset's id as its key. */
export function Guide({ asset }: { asset: AssetAnswer }) {
  const { data, error, refetch } = useGuideQuery(asset.id);
  if (error) return <Trouble error={error} what="The guide cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={3} />;
  return <Shown asset={asset} guide={data} />;
}

function Shown({ asset, guide }: { asset: AssetAnswer; guide: GuideAnswer }) {
  const [save] = useSaveGuideMutation();
  const [writing, setWriting] = useState(false);
  const [history, setHistory] = useState(false);
  const edit = useEditForm<Text, GuideAnswer>({
    key: `guide:${asset.id}`,
    now: { version: guide.version, values: textOf(guide) },
    fresh: { text: '' },
    valuesOf: textOf,
    joiners: JOINERS,
    send: ({ text }, version) => save({ id: asset.id, version, text }).unwrap(),
    done: ({ version }, { text }) => {
      setWriting(false);
      sayDone('The guide is saved.', () => save({ id: asset.id, version, text }));
    },
  });
  const begin = () => {
    if (guide.version === 0 && edit.values.text === '' && guide.template) edit.put({ text: guide.template });
    setWriting(true);
  };
  const leave = () => {
    const typed = edit.values.text;
    edit.discard();
    setWriting(false);
    if (edit.differs && !began)
      sayDone('What you wrote is put away.', () => {
        edit.put({ text: typed });
        setWriting(true);
      });
  };
  // What was begun from a template and never changed is nothing that anybody wrote.
  const began = guide.version === 0 && edit.values.text.trim() === guide.template.trim();
  if (writing)
    return (
      <Form
        asset={asset}
        edit={edit}
        leave={began || !edit.differs ? leave : () => setWriting(false)}
        discard={leave}
      />
    );
  const shown = guide.text.trim() !== '';
  return (
    <Stack>
      {shown ? <Written text={guide.text} /> : <p className="quiet">Nobody has written one yet.</p>}
      <Group gap={14}>
        {asset.mayEdit ? (
          <Button variant="default" size="compact-sm" onClick={begin}>
            {edit.differs && !began ? 'Go on writing' : shown ? 'Change the guide' : 'Write a guide'}
          </Button>
        ) : null}
        {edit.differs && !began ? <span className="attention small">unsaved text</span> : null}
        {guide.at ? (
          <span className="quiet small">
            {guide.by?.name ?? 'Somebody'}, <When at={guide.at} />
          </span>
        ) : null}
        {guide.version > 0 ? (
          <button type="button" className="linkish small" aria-expanded={history} onClick={() => setHistory(!history)}>
            {history ? 'Close the versions' : `${guide.version === 1 ? 'One version' : `${guide.version} versions`}`}
          </button>
        ) : null}
        {shown ? <CopyMarkdown text={guide.text} /> : null}
      </Group>
      {history ? <Versions asset={asset} guide={guide} /> : null}
    </Stack>
  );
}

const CopyMarkdown = ({ text }: { text: string }) => (
  <CopyButton value={text}>
    {({ copied, copy }) => (
      <button type="button" className="linkish small" onClick={copy}>
        {copied ? 'Copied' : 'Copy as Markdown'}
      </button>
    )}
  </CopyButton>
);

function Form({
  asset,
  edit,
  leave,
  discard,
}: {
  asset: AssetAnswer;
  edit: EditForm<Text>;
  leave: () => void;
  discard: () => void;
}) {
  const [raw, setRaw] = useState(false);
  const others = useOthersHere(asset.id);
  const clash = edit.clashes.find(({ field }) => field === 'text');
  const save = () => {
    if (!edit.differs) leave();
    else if (!clash && !edit.saving) void edit.save();
  };
  const text = edit.values.text;
  const put = (next: string) => edit.put({ text: next });
  if (clash)
    return (
      <Sides
        base={String(clash.base)}
        mine={String(clash.mine)}
        theirs={String(clash.theirs)}
        take={(whole) => {
          put(whole);
          edit.take('text', 'mine');
        }}
      />
    );
  return (
    <Stack>
      {others.length > 0 ? (
        <p className="notice calm" role="status">
          {others.map(({ person }) => person.name).join(' and ')} {others.length === 1 ? 'is' : 'are'} writing here,
          too. What you change in other paragraphs is put together when you save.
        </p>
      ) : null}
      {raw ? (
        <Textarea
          aria-label="Guide, as Markdown"
          autosize
          minRows={10}
          maxRows={30}
          value={text}
          onChange={(event) => put(event.currentTarget.value)}
          styles={{ input: { fontFamily: 'var(--mantine-font-family-monospace)' } }}
          onKeyDown={(event) => {
            if (event.key === 'Escape') leave();
            if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) save();
          }}
        />
      ) : (
        <Suspense fallback={<Coming lines={6} />}>
          <Editor label="Guide" value={text} onChange={put} onSave={save} onLeave={leave} pictures={asset.id} />
        </Suspense>
      )}
      <FormNotice edit={edit} words={{ text: 'the guide' }} />
      <Group>
        <Button onClick={save} loading={edit.saving}>
          Save
        </Button>
        <Button variant="default" onClick={discard}>
          Leave as it was
        </Button>
        <button type="button" className="linkish small" onClick={() => setRaw(!raw)}>
          {raw ? 'Write with a toolbar' : 'Write as Markdown'}
        </button>
        <span className="quiet small">
          <kbd>@</kbd> mentions people, terms and assets · <kbd>Ctrl Enter</kbd> saves
        </span>
      </Group>
    </Stack>
  );
}

const SAID_EVERY = 8000;
/** Says every few seconds that somebody writes here, as long as they do. @returns the others who do */
function useOthersHere(id: string) {
  const [say, { data }] = useWritersHereMutation();
  useEffect(() => {
    void say({ id, writing: true });
    const again = setInterval(() => void say({ id, writing: true }), SAID_EVERY);
    return () => {
      clearInterval(again);
      void say({ id, writing: false });
    };
  }, [id, say]);
  return data ?? [];
}
