import type { AssetAnswer, LinkAnswer, LinkBody, LinkPreview } from '@idrel/contract/catalog';
import { LINK_KINDS } from '@idrel/core/catalog';
import { Button, Select, TextInput } from '@mantine/core';
import { useState } from 'react';
import { sayDone } from '../app/say.ts';
import { removing } from '../forms/Frame.tsx';
import { Framed } from '../forms/Framed.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import {
  useBringBackLinkMutation,
  useLinkPreviewsQuery,
  useLinksQuery,
  useRemoveLinkMutation,
  useSaveLinkMutation,
} from './addressesApi.ts';

/** Where more is said of an asset: documents, tickets, queries, repositories. Give it the asset's id as its key. */
export function Links({ asset }: { asset: AssetAnswer }) {
  const { data } = useLinksQuery(asset.id);
  const { data: previews } = useLinkPreviewsQuery(asset.id, { skip: !data?.length });
  const previewOf = new Map(previews?.map((preview) => [preview.linkId, preview]));
  const [editing, setEditing] = useState<string | null>(null);
  const [remove] = useRemoveLinkMutation();
  const [bringBack] = useBringBackLinkMutation();
  const destroy = ({ id, title }: LinkAnswer) =>
    removing(remove(id).unwrap(), 'The link was not taken away', () =>
      sayDone(`“${title}” is taken away.`, () => bringBack(id)),
    );
  const close = () => setEditing(null);
  return (
    <div>
      {data?.length === 0 && editing === null ? <span className="quiet">none yet</span> : null}
      <ul className="bare">
        {(data ?? []).map((link) =>
          editing === link.id ? (
            <li key={link.id}>
              <LinkForm assetId={asset.id} link={link} close={close} />
            </li>
          ) : (
            <li key={link.id} className="link-line">
              <a href={link.url} target="_blank" rel="noreferrer noopener" title={link.url}>
                {link.title}
              </a>
              <Preview link={link} preview={previewOf.get(link.id)} />
              <div className="quiet small">
                {link.kind} · {hostOf(link.url)}
                {asset.mayEdit ? (
                  <>
                    {' · '}
                    <button type="button" className="linkish" onClick={() => setEditing(link.id)}>
                      Change
                    </button>
                    {' · '}
                    <button type="button" className="linkish" onClick={() => destroy(link)}>
                      Take away
                    </button>
                  </>
                ) : null}
              </div>
            </li>
          ),
        )}
      </ul>
      {editing === 'new' ? <LinkForm assetId={asset.id} close={close} /> : null}
      {asset.mayEdit && editing === null ? (
        <Button variant="subtle" size="compact-xs" onClick={() => setEditing('new')}>
          Add a link
        </Button>
      ) : null}
    </div>
  );
}

/** What the page says of itself: nothing twice. */
function Preview({ link, preview }: { link: LinkAnswer; preview: LinkPreview | undefined }) {
  if (!preview) return null;
  if (preview.problem) return <div className="small attention">{preview.problem}</div>;
  const title = preview.title === link.title ? null : preview.title;
  const lines = [title, preview.text].filter((line) => line !== null);
  if (lines.length === 0) return null;
  return (
    <blockquote className="preview small">
      {lines.map((line) => (
        <div key={line}>{line}</div>
      ))}
      {preview.site ? <div className="quiet">{preview.site}</div> : null}
    </blockquote>
  );
}

/** Whose address it is. */
function hostOf(url: string): string {
  const found = URL.parse(url);
  return found?.host || found?.pathname || url;
}

function LinkForm({ assetId, link, close }: { assetId: string; link?: LinkAnswer; close: () => void }) {
  const [save] = useSaveLinkMutation();
  const edit = useEditForm<LinkBody, LinkAnswer>({
    key: `link:${link?.id ?? `new:${assetId}`}`,
    now: link ? { version: link.version, values: bodyOf(link) } : null,
    fresh: { kind: 'document', url: '', title: '' },
    valuesOf: bodyOf,
    send: (body, version) => save({ assetId, id: link?.id ?? null, version, body }).unwrap(),
    done: (saved) => {
      sayDone(`“${saved.title}” is saved.`);
      close();
    },
  });
  const { form, values, put } = edit;
  return (
    <Framed
      label={link ? 'Change the link' : 'New link'}
      edit={edit}
      fields={{ kind: 'Kind', url: 'Address', title: 'Title' }}
      words="Save link"
      ready={values.url.trim() !== '' && values.title.trim() !== ''}
      close={close}
    >
      <TextInput label="Address" required autoFocus placeholder="https://" {...form.getInputProps('url')} />
      <TextInput label="Title" required {...form.getInputProps('title')} />
      <Select
        label="Kind"
        allowDeselect={false}
        data={[...LINK_KINDS]}
        value={values.kind}
        onChange={(kind) => kind && put({ kind: kind as LinkBody['kind'] })}
      />
    </Framed>
  );
}

const bodyOf = ({ kind, url, title }: LinkAnswer): LinkBody => ({ kind, url, title });
