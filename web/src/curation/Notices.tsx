import type { AssetAnswer } from '@idrel/contract/catalog';
import type { NoticeAnswer, NoticeBody, NoticesAnswer } from '@idrel/contract/curation';
import { NOTICE_KINDS, type NoticeKind } from '@idrel/core/catalog';
import { Button, Select, Textarea, TextInput } from '@mantine/core';
import dayjs from 'dayjs';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayDone } from '../app/say.ts';
import { removing } from '../forms/Frame.tsx';
import { Framed } from '../forms/Framed.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { NoticeMark, plural } from '../marks/index.tsx';
import {
  useBringBackNoticeMutation,
  useNoticesQuery,
  useRemoveNoticeMutation,
  useSaveNoticeMutation,
} from './noticesApi.ts';

const day = (date: string) => dayjs(date).format('D MMM YYYY');
const today = () => dayjs().format('YYYY-MM-DD');

/** Notices of an asset, and of what it lies in or is made from; given, changed and ended where they stand. Give it the asset's id as its key. */
export function Notices({ asset }: { asset: AssetAnswer }) {
  const { data } = useNoticesQuery(asset.id);
  const [editing, setEditing] = useState<string | null>(null);
  const holding = (data?.own ?? []).filter(({ holds }) => holds);
  const others = (data?.own ?? []).filter(({ holds }) => !holds);
  const shown = (notice: NoticeAnswer) =>
    editing === notice.id ? (
      <NoticeForm key={notice.id} assetId={asset.id} notice={notice} close={() => setEditing(null)} />
    ) : (
      <One key={notice.id} notice={notice} may={asset.mayEdit} edit={() => setEditing(notice.id)} />
    );
  return (
    <section aria-label="Notices" className="stack">
      {holding.map(shown)}
      {(data?.around ?? []).map((entry) => (
        <Around key={`${entry.why} ${entry.notice.id}`} entry={entry} />
      ))}
      {(data?.retiring ?? []).map((entry) => (
        <Retiring key={`retiring ${entry.asset.id}`} entry={entry} />
      ))}
      {others.length > 0 ? (
        <details>
          <summary className="small">{plural(others.length, 'notice')} to come or over</summary>
          <div className="stack">{others.map(shown)}</div>
        </details>
      ) : null}
      {asset.mayEdit ? (
        editing === 'new' ? (
          <NoticeForm key="new" assetId={asset.id} close={() => setEditing(null)} />
        ) : (
          <div>
            <Button variant="subtle" size="compact-xs" onClick={() => setEditing('new')}>
              Add a notice
            </Button>
          </div>
        )
      ) : null}
    </section>
  );
}

/** From when until when, where that is not plain. */
function daysOf({ starts, ends, holds }: NoticeAnswer): string {
  if (holds) return ends ? `until ${day(ends)}` : '';
  return starts > today() ? `from ${day(starts)}` : `over since ${day(ends ?? starts)}`;
}

function One({ notice, may, edit }: { notice: NoticeAnswer; may: boolean; edit: () => void }) {
  const [save] = useSaveNoticeMutation();
  const [remove] = useRemoveNoticeMutation();
  const [bringBack] = useBringBackNoticeMutation();
  const { id, assetId, kind, text, starts, ends, holds, version, maker } = notice;
  const yesterday = dayjs().subtract(1, 'day').format('YYYY-MM-DD');
  const end = () =>
    removing(
      save({
        assetId,
        id,
        version,
        body: { kind, text, starts: starts > yesterday ? yesterday : starts, ends: yesterday },
      }).unwrap(),
      'The notice was not ended',
      () =>
        sayDone(`The ${kind} is over.`, () =>
          save({ assetId, id, version: version + 1, body: { kind, text, starts, ends } }),
        ),
    );
  const destroy = () =>
    removing(remove(id).unwrap(), 'The notice was not taken away', () =>
      sayDone(`The ${kind} is taken away.`, () => bringBack(id)),
    );
  return (
    <div className={`notice on-asset ${holds ? `is-${kind}` : 'quiet'}`}>
      <NoticeMark kind={kind} /> <span className="said">{text}</span>
      <span className="quiet small">
        {' '}
        {[daysOf(notice), maker].filter(Boolean).join(' · ')}
        {may ? (
          <>
            {' · '}
            <button type="button" className="linkish" onClick={edit}>
              Change
            </button>
            {holds ? (
              <>
                {' · '}
                <button type="button" className="linkish" onClick={end}>
                  End it
                </button>
              </>
            ) : null}
            {' · '}
            <button type="button" className="linkish" onClick={destroy}>
              Take away
            </button>
          </>
        ) : null}
      </span>
    </div>
  );
}

const Around = ({ entry: { notice, why, asset } }: { entry: NoticesAnswer['around'][number] }) => (
  <div className={`notice on-asset quiet is-${notice.kind}`}>
    <NoticeMark kind={notice.kind} /> on <Link to={`/assets/${asset.id}`}>{asset.path}</Link>,{' '}
    {why === 'lies in' ? 'in which this lies' : 'from which this is made'}: <span className="said">{notice.text}</span>
  </div>
);

const Retiring = ({ entry: { asset, why, on, replacement } }: { entry: NoticesAnswer['retiring'][number] }) => (
  <div className="notice on-asset quiet is-caution">
    <Link to={`/assets/${asset.id}`}>{asset.path}</Link>,{' '}
    {why === 'lies in' ? 'in which this lies' : 'from which this is made'}, is{' '}
    <span className="standing retiring">retiring</span>
    {on ? ` and goes on ${day(on)}` : ''}
    {replacement ? (
      <>
        ; <Link to={`/assets/${replacement.id}`}>{replacement.path}</Link> takes its place
      </>
    ) : null}
    .
  </div>
);

function NoticeForm({ assetId, notice, close }: { assetId: string; notice?: NoticeAnswer; close: () => void }) {
  const [save] = useSaveNoticeMutation();
  const edit = useEditForm<NoticeBody, NoticeAnswer>({
    key: `notice:${notice?.id ?? `new:${assetId}`}`,
    now: notice ? { version: notice.version, values: bodyOf(notice) } : null,
    fresh: { kind: 'note', text: '', starts: today(), ends: null },
    valuesOf: bodyOf,
    send: (body, version) => save({ assetId, id: notice?.id ?? null, version, body }).unwrap(),
    done: (saved) => {
      sayDone(`The ${saved.kind} is saved.`);
      close();
    },
  });
  const { form, values, put } = edit;
  return (
    <Framed
      label={notice ? 'Change the notice' : 'New notice'}
      edit={edit}
      fields={{ kind: 'Kind of notice', text: 'What is to be known', starts: 'From', ends: 'Until' }}
      words="Save notice"
      ready={values.text.trim() !== '' && values.starts !== ''}
      close={close}
    >
      <Textarea label="What is to be known" required autosize autoFocus {...form.getInputProps('text')} />
      <div className="fields">
        <Select
          label="Kind of notice"
          allowDeselect={false}
          data={NOTICE_KINDS.map((kind) => ({ value: kind, label: kind }))}
          value={values.kind}
          onChange={(kind) => kind && put({ kind: kind as NoticeKind })}
        />
        <TextInput label="From" type="date" required {...form.getInputProps('starts')} />
        <TextInput
          label="Until"
          type="date"
          {...form.getInputProps('ends')}
          value={values.ends ?? ''}
          onChange={(event) => put({ ends: event.currentTarget.value || null })}
        />
      </div>
    </Framed>
  );
}

const bodyOf = ({ kind, text, starts, ends }: NoticeAnswer): NoticeBody => ({ kind, text, starts, ends });
