import { useEffect, useRef, useState } from 'react';
import type { Stretch } from './highlight.ts';

/** Longer code is shown without colours and numbers of its lines: they would be as many elements. */
const NUMBERED_MOST = 5000;

/**
 * Code as it is kept, with the numbers of its lines; how it reads is told by colours, once what knows them is there.
 *
 * @param language as it was told; SQL where it was not
 * @param line the line that is meant: it is marked, and brought into view
 */
export function Code({ text, language, line = null }: { text: string; language?: string; line?: number | null }) {
  const marked = useRef<HTMLSpanElement>(null);
  const [looks, setLooks] = useState<{ of: string; lines: readonly (readonly Stretch[])[] }>();
  const code = text.trimEnd();
  const lines = code.split('\n');
  const isLong = lines.length > NUMBERED_MOST;
  useEffect(() => {
    if (line !== null) marked.current?.scrollIntoView({ block: 'center' });
  }, [line]);
  useEffect(() => {
    let left = false;
    if (!isLong)
      void import('./highlight.ts').then(
        ({ highlighted, languageOf }) => {
          if (!left) setLooks({ of: code, lines: highlighted(code, languageOf(language)) });
        },
        () => undefined,
      );
    return () => {
      left = true;
    };
  }, [code, language, isLong]);
  if (isLong) return <pre className="code">{code}</pre>;
  return (
    <pre className={lines.length > 1 ? 'code numbered' : 'code'}>
      {lines.map((one, index) => {
        const isMeant = index + 1 === line;
        return (
          <span
            key={index}
            className={isMeant ? 'meant' : undefined}
            ref={isMeant ? marked : undefined}
            aria-current={isMeant || undefined}
          >
            {looks?.of === code
              ? looks.lines[index]?.map((stretch, place) =>
                  stretch.look ? (
                    <span key={place} className={stretch.look}>
                      {stretch.text}
                    </span>
                  ) : (
                    stretch.text
                  ),
                )
              : one}
            {'\n'}
          </span>
        );
      })}
    </pre>
  );
}
