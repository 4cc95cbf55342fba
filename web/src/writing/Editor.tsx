import '@mantine/tiptap/styles.css';
import { FileButton } from '@mantine/core';
import { RichTextEditor } from '@mantine/tiptap';
import { useEditor } from '@tiptap/react';
import { useEffect, useRef, useState } from 'react';
import { sayProblem } from '../app/say.ts';
import { addFootnote } from './footnote.ts';
import { kit } from './kit.ts';
import { MentionOffer } from './MentionOffer.tsx';
import type { Offer } from './mention.ts';
import { pictureAddress } from './pictureAddress.ts';
import { useAddPictureMutation, useLazyMentionableQuery } from './writingApi.ts';

/** Another sign than that of code within a line. */
const Braces = () => <span className="mono small">{'{ }'}</span>;

export interface Writing {
  readonly label: string;
  readonly value: string;
  readonly onChange: (markdown: string) => void;
  /** Ctrl Enter. */
  readonly onSave: () => void;
  /** Escape, while nothing is offered. */
  readonly onLeave: () => void;
  /** The asset whose pictures it may show; without one it shows none. */
  readonly pictures?: string;
  /** For a few lines: without headings and tables. */
  readonly short?: boolean;
}

/** A field for a text with headings, lists, tables, code, pictures and mentions; what goes in and comes out is Markdown. */
export function Editor({ label, value, onChange, onSave, onLeave, pictures, short = false }: Writing) {
  const [find] = useLazyMentionableQuery();
  const [addPicture] = useAddPictureMutation();
  const [offer, setOffer] = useState<Offer | null>(null);
  const [chosen, setChosen] = useState(0);
  // What the editor calls is made once: it looks here for what holds now.
  const now = useRef({ offer, chosen, onChange, onSave, onLeave });
  now.current = { offer, chosen, onChange, onSave, onLeave };
  const said = useRef(value);
  // The text as it came, and as this field would write it: as long as nothing else was typed, it is the text as it came.
  const begun = useRef<{ readonly came: string; readonly written: string } | null>(null);
  const box = useRef<HTMLDivElement>(null);

  const [extensions] = useState(() =>
    kit(
      { short, pictures: pictures !== undefined },
      {
        find: (words) =>
          find(words, true)
            .unwrap()
            .catch(() => []),
        offer: (offered) => {
          setOffer(offered);
          setChosen((before) => (offered && before < offered.items.length ? before : 0));
        },
        onKey: (event) => {
          const { offer: shown, chosen: at } = now.current;
          const count = shown?.items.length ?? 0;
          if (!shown || count === 0) return false;
          if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
            setChosen((at + (event.key === 'ArrowDown' ? 1 : count - 1)) % count);
            return true;
          }
          const item = shown.items[at];
          if ((event.key !== 'Enter' && event.key !== 'Tab') || !item) return false;
          shown.take(item);
          return true;
        },
      },
    ),
  );
  const editor = useEditor({
    extensions,
    content: value,
    contentType: 'markdown',
    autofocus: 'end',
    shouldRerenderOnTransaction: false,
    editorProps: {
      attributes: { 'aria-label': label, role: 'textbox', 'aria-multiline': 'true' },
      handleKeyDown: (_view, event) => {
        if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
          now.current.onSave();
          return true;
        }
        if (event.key !== 'Escape' || now.current.offer) return false;
        now.current.onLeave();
        return true;
      },
      handlePaste: (_view, event) => takeFiles(event.clipboardData?.files),
      handleDrop: (_view, event) => takeFiles(event.dataTransfer?.files),
    },
    onCreate: ({ editor: made }) => {
      begun.current = { came: said.current, written: made.getMarkdown().trimEnd() };
    },
    onUpdate: ({ editor: written }) => {
      const markdown = written.getMarkdown().trimEnd();
      const start = begun.current;
      if (!start) return;
      said.current = markdown === start.written ? start.came : markdown;
      now.current.onChange(said.current);
    },
  });

  // Another text than the one written here: somebody else's, or the one it began from.
  useEffect(() => {
    if (!editor || value === said.current) return;
    said.current = value;
    editor.commands.setContent(value, { contentType: 'markdown', emitUpdate: false });
    begun.current = { came: value, written: editor.getMarkdown().trimEnd() };
  }, [editor, value]);

  const take = async (file: File) => {
    if (!pictures) return;
    try {
      const { id } = await addPicture({ assetId: pictures, file }).unwrap();
      const alt = file.name.replace(/\.[a-z]+$/i, '').replace(/[_-]+/g, ' ');
      editor
        ?.chain()
        .focus()
        .setImage({ src: pictureAddress(`idrel:picture/${id}`), alt })
        .run();
    } catch (error) {
      sayProblem(error, 'The picture was not added');
    }
  };
  const takeFiles = (files: FileList | undefined): boolean => {
    const found = [...(files ?? [])].filter(({ type }) => type.startsWith('image/'));
    if (!pictures || found.length === 0) return false;
    for (const file of found) void take(file);
    return true;
  };

  return (
    <div ref={box} className={short ? 'writing short' : 'writing'}>
      <RichTextEditor editor={editor} variant="subtle">
        <RichTextEditor.Toolbar>
          <RichTextEditor.ControlsGroup>
            <RichTextEditor.Bold />
            <RichTextEditor.Italic />
            <RichTextEditor.Code />
            <RichTextEditor.Link />
          </RichTextEditor.ControlsGroup>
          <RichTextEditor.ControlsGroup>
            {short ? null : (
              <>
                <RichTextEditor.H2 />
                <RichTextEditor.H3 />
              </>
            )}
            <RichTextEditor.BulletList />
            <RichTextEditor.OrderedList />
            <RichTextEditor.TaskList />
            <RichTextEditor.Blockquote />
            <RichTextEditor.CodeBlock icon={Braces} />
            {short ? null : (
              <RichTextEditor.Control
                className="worded"
                aria-label="Table"
                onClick={() => editor?.chain().focus().insertTable({ rows: 3, cols: 3, withHeaderRow: true }).run()}
              >
                Table
              </RichTextEditor.Control>
            )}
            {short ? null : (
              <RichTextEditor.Control
                className="worded"
                aria-label="Footnote"
                onClick={() => editor && addFootnote(editor)}
              >
                Footnote
              </RichTextEditor.Control>
            )}
            {pictures ? (
              <FileButton
                accept="image/png,image/jpeg,image/webp,image/gif"
                onChange={(file) => file && void take(file)}
              >
                {(given) => (
                  <RichTextEditor.Control {...given} className="worded" aria-label="Picture">
                    Picture
                  </RichTextEditor.Control>
                )}
              </FileButton>
            ) : null}
          </RichTextEditor.ControlsGroup>
          <RichTextEditor.ControlsGroup>
            <RichTextEditor.Undo />
            <RichTextEditor.Redo />
          </RichTextEditor.ControlsGroup>
        </RichTextEditor.Toolbar>
        <RichTextEditor.Content />
      </RichTextEditor>
      {offer ? <MentionOffer offer={offer} chosen={chosen} within={box.current} /> : null}
    </div>
  );
}
