import { type ReactNode, useId } from 'react';

/** A value that is changed by pressing it. Read aloud it is what pressing does, and then the value. */
export function Editable({ label, onOpen, children }: { label: string; onOpen: () => void; children: ReactNode }) {
  const id = useId();
  return (
    <button
      id={id}
      type="button"
      className="editable"
      aria-label={`Edit ${label}`}
      aria-labelledby={`${id} ${id}-value`}
      onClick={onOpen}
    >
      <span id={`${id}-value`}>{children}</span>
    </button>
  );
}
