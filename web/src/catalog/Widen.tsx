import { type KeyboardEvent, type PointerEvent, useRef } from 'react';

const STEP = 16;

/** The edge of a column's head: drawn, or moved by the arrow keys, it makes the column wider or narrower; pressed twice, as wide as usual. */
export function Widen({
  label,
  width,
  widen,
}: {
  label: string;
  /** In pixels, where somebody set it. */
  width: number | undefined;
  widen: (width: number | undefined) => void;
}) {
  const drawn = useRef<{ from: number; width: number }>(undefined);
  const head = (event: PointerEvent | KeyboardEvent) => (event.currentTarget.parentElement as HTMLElement).offsetWidth;
  return (
    <div
      className="widen"
      role="separator"
      tabIndex={0}
      aria-orientation="vertical"
      aria-label={`Width of ${label}`}
      aria-valuenow={width ?? 0}
      aria-valuetext={width === undefined ? 'as usual' : `${width} pixels`}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        drawn.current = { from: event.clientX, width: head(event) };
      }}
      onPointerMove={(event) => {
        if (drawn.current) widen(drawn.current.width + event.clientX - drawn.current.from);
      }}
      onPointerUp={() => {
        drawn.current = undefined;
      }}
      onDoubleClick={() => widen(undefined)}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -STEP, ArrowRight: STEP }[event.key];
        if (by === undefined && event.key !== 'Escape') return;
        event.preventDefault();
        event.stopPropagation();
        widen(by === undefined ? undefined : head(event) + by);
      }}
    />
  );
}
