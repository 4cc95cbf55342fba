import { Button, Group, Stack } from '@mantine/core';
import { lazy, Suspense, useState } from 'react';
import { type AnyProblem, problemOf } from '../app/api.ts';
import { useKeptText } from '../forms/useKeptText.ts';
import { Coming, ProblemNotice } from '../marks/states.tsx';

const Editor = lazy(() => import('./Editor.tsx').then(({ Editor }) => ({ default: Editor })));

/** A few lines that somebody says: kept in the browser until they are sent. @param keep the key by which they are kept */
export function Saying({
  label,
  words,
  keep,
  begin = '',
  send,
  close,
}: {
  label: string;
  words: string;
  keep: string;
  begin?: string;
  send: (text: string) => Promise<void>;
  close: () => void;
}) {
  const [kept, setKept] = useKeptText(keep);
  const [sending, setSending] = useState(false);
  const [problem, setProblem] = useState<AnyProblem | null>(null);
  const text = kept || begin;
  const say = async () => {
    if (text.trim() === '' || sending) return;
    setSending(true);
    setProblem(null);
    try {
      await send(text);
      setKept('');
      close();
    } catch (error) {
      setProblem(problemOf(error));
    } finally {
      setSending(false);
    }
  };
  return (
    <Stack>
      <Suspense fallback={<Coming lines={2} />}>
        <Editor short label={label} value={text} onChange={setKept} onSave={() => void say()} onLeave={close} />
      </Suspense>
      <ProblemNotice problem={problem} />
      <Group>
        <Button size="compact-sm" onClick={() => void say()} loading={sending} disabled={text.trim() === ''}>
          {words}
        </Button>
        <Button variant="default" size="compact-sm" onClick={close}>
          Close
        </Button>
        <span className="quiet small">
          <kbd>@</kbd> mentions · <kbd>Ctrl Enter</kbd> sends; what you write stays here until then
        </span>
      </Group>
    </Stack>
  );
}
