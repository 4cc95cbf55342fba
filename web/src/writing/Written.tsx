import { lazy, Suspense } from 'react';

// What reads Markdown is as large as a view: it comes when a text is there to be read.
const WrittenText = lazy(async () => ({ default: (await import('./WrittenText.tsx')).WrittenText }));

/** A text as it is read, of Markdown. @param under the level of the heading below which it stands */
export const Written = (text: { text: string; under?: number }) => (
  <Suspense fallback={<div className="text" aria-busy="true" />}>
    <WrittenText {...text} />
  </Suspense>
);
