import { Button, Textarea } from '@mantine/core';
import { useEffect, useRef, useState } from 'react';

const draftKey = (id: string) => `idrel-draft:${id}`;

/**
 * A text that becomes a field where it stands. What is typed is kept in the browser until it is saved, also over a failed save or a closed page.
 */
export function EditableText({
  id,
  label,
  value,
  empty,
  mayEdit,
  open,
  onOpen,
  save,
}: {
  id: string;
  label: string;
  value: string;
  empty: string;
  mayEdit: boolean;
  open: boolean;
  onOpen: (open: boolean) => void;
  save: (text: string) => Promise<boolean>;
}) {
  const kept = localStorage.getItem(draftKey(id));
  const [text, setText] = useState(kept ?? value);
  const [saving, setSaving] = useState(false);
  const field = useRef<HTMLTextAreaElement>(null);
  useEffect(() => setText(localStorage.getItem(draftKey(id)) ?? value), [id, value]);
  useEffect(() => {
    if (open) field.current?.focus();
  }, [open]);
  // A save that met somebody else's edit is settled elsewhere: when what stands there now is what was typed, the field is done.
  const unsettled = useRef(false);
  useEffect(() => {
    if (!unsettled.current || value !== text) return;
    unsettled.current = false;
    localStorage.removeItem(draftKey(id));
    onOpen(false);
  }, [value, text, id, onOpen]);
  const change = (next: string) => {
    setText(next);
    if (next === value) localStorage.removeItem(draftKey(id));
    else localStorage.setItem(draftKey(id), next);
  };
  const close = () => {
    localStorage.removeItem(draftKey(id));
    setText(value);
    onOpen(false);
  };
  const keep = async () => {
    setSaving(true);
    const saved = await save(text);
    setSaving(false);
    unsettled.current = !saved;
    if (!saved) return;
    localStorage.removeItem(draftKey(id));
    onOpen(false);
  };
  if (!open) {
    const shown = value || <span className="quiet">{empty}</span>;
    if (!mayEdit) return <span style={{ whiteSpace: 'pre-wrap' }}>{shown}</span>;
    return (
      <button type="button" className="editable" aria-label={`Edit ${label}`} onClick={() => onOpen(true)}>
        {shown}
        {kept !== null && kept !== value ? <span className="attention small"> · unsaved text</span> : null}
      </button>
    );
  }
  return (
    <div>
      <Textarea
        ref={field}
        aria-label={label}
        value={text}
        onChange={(event) => change(event.currentTarget.value)}
        onKeyDown={(event) => {
          if (event.key === 'Escape') close();
          if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) void keep();
        }}
      />
      <div className="row" style={{ marginTop: 6 }}>
        <Button onClick={() => void keep()} loading={saving}>
          Save
        </Button>
        <Button variant="default" onClick={close}>
          Leave as it was
        </Button>
        <span className="quiet small">
          <kbd>Ctrl Enter</kbd> saves
        </span>
      </div>
    </div>
  );
}
