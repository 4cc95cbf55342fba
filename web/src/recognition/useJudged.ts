import { useEffect, useRef, useState } from 'react';
import type { Judged, Question } from './judge.ts';

const NOTHING: Judged = { problem: null, taken: [], proposals: [] };

/** The examples judged by the draft, in a worker: however many they are, typing goes on. What is shown is of the last question that was answered. */
export function useJudged(question: Question): Judged {
  const [judged, setJudged] = useState(NOTHING);
  const worker = useRef<Worker>(undefined);
  const asked = useRef(0);
  useEffect(() => {
    const own = new Worker(new URL('./judge.worker.ts', import.meta.url), { type: 'module' });
    own.onmessage = ({ data }: MessageEvent<{ number: number; judged: Judged }>) => {
      if (data.number === asked.current) setJudged(data.judged);
    };
    worker.current = own;
    return () => own.terminate();
  }, []);
  const text = JSON.stringify(question);
  useEffect(() => {
    asked.current += 1;
    worker.current?.postMessage({ number: asked.current, question: JSON.parse(text) as Question });
  }, [text]);
  return judged;
}
