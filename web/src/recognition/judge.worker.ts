import { judge, type Question } from './judge.ts';

self.onmessage = ({ data }: MessageEvent<{ number: number; question: Question }>) => {
  self.postMessage({ number: data.number, judged: judge(data.question) });
};
