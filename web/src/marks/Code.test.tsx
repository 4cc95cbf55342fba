// @vitest-environment jsdom
import { cleanup, render, screen, waitFor } from '@testing-library/react';
import { afterEach, expect, it } from 'vitest';
import { Code } from './Code.tsx';
import { highlighted, languageOf } from './highlight.ts';

afterEach(cleanup);

it('keeps every letter of the code, in its lines', () => {
  const code = "select a, 'x\ny' as b -- why\n/* one\n two */\nfrom t\n\nwhere a = $$it's$$;";
  const lines = highlighted(code, 'pgsql');
  expect(lines.map((line) => line.map(({ text }) => text).join('')).join('\n')).toBe(code);
  expect(lines[0]?.find(({ text }) => text === 'select')?.look).toContain('keyword');
  // A comment over two lines is one on both.
  expect([lines[2], lines[3]].map((line) => line?.[0]?.look)).toEqual(['hljs-comment', 'hljs-comment']);
});

it('takes what is not known for SQL', () => {
  expect([undefined, 'SQL', 'Python', 'pyspark', 'something'].map(languageOf)).toEqual([
    'pgsql',
    'sql',
    'python',
    'python',
    'pgsql',
  ]);
});

it('shows the lines with their numbers, and marks the one that is meant', async () => {
  Element.prototype.scrollIntoView = () => undefined;
  const { container } = render(<Code text={'begin\n  insert into t values (1);\nend'} line={2} />);
  await waitFor(() => expect(container.querySelector('.hljs-keyword')).not.toBeNull());
  expect(container.querySelector('[aria-current]')?.textContent).toBe('  insert into t values (1);\n');
  expect(container.querySelector('pre')?.textContent).toBe('begin\n  insert into t values (1);\nend\n');
  expect(screen.queryByText('begin')).not.toBeNull();
});
