import { useEffect, useRef } from 'react';

/** Longer code is shown without numbers of its lines: they would be as many elements. */
const NUMBERED_MOST = 5000;

/** Code as it is kept, with the numbers of its lines. @param line the line that is meant: it is marked, and brought into view */
export function Code({ text, line = null }: { text: string; line?: number | null }) {
  const marked = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    if (line !== null) marked.current?.scrollIntoView({ block: 'center' });
  }, [line]);
  const lines = text.trimEnd().split('\n');
  if (lines.length === 1 || lines.length > NUMBERED_MOST) return <pre className="code">{text.trim()}</pre>;
  return (
    <pre className="code numbered">
      {lines.map((one, index) => {
        const isMeant = index + 1 === line;
        return (
          <span
            key={index}
            className={isMeant ? 'meant' : undefined}
            ref={isMeant ? marked : undefined}
            aria-current={isMeant || undefined}
          >
            {one}
            {'\n'}
          </span>
        );
      })}
    </pre>
  );
}
