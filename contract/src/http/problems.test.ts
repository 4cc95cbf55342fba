import { describe, expect, it } from 'vitest';
import {
  type Endpoint,
  endpoint,
  idParam,
  PROBLEMS,
  type ProblemCode,
  problemsOf,
  role,
  shape,
  statusOf,
  text,
} from './index.ts';

const operation = (more: Partial<Endpoint>): Endpoint =>
  endpoint({
    id: 'tried',
    method: 'get',
    path: '/tried',
    area: 'tests',
    summary: 'Something',
    may: 'anybody',
    answers: 'Nothing.',
    ...more,
  });
const codes = (more: Partial<Endpoint>) => [...problemsOf(operation(more))].sort();
/** What an operation can be answered with beside what any can. */
const beyond = (more: Partial<Endpoint>) => codes(more).filter((code) => !codes({}).includes(code));

describe('the problems of an operation', () => {
  it('follow from who may call it', () => {
    // What is for anybody can be asked with a key of a program as well, which can be a wrong one.
    expect(codes({})).toEqual([
      'bad-request',
      'busy',
      'internal',
      'key-scope',
      'no-database',
      'too-many-calls',
      'unknown-key',
    ]);
    // People of partner organisations are let into what says that it is for them, and into nothing else.
    expect(beyond({ may: 'signed in' })).toEqual(['forbidden', 'not-signed-in']);
    expect(beyond({ may: 'signed in', partners: true })).toEqual(['not-signed-in']);
    expect(beyond({ may: 'an agent' })).toEqual(['unknown-agent']);
    expect(beyond({ may: role('steward', 'its domain') })).toEqual(['forbidden', 'not-signed-in']);
    expect(beyond({ may: { words: 'whoever made it' } })).toEqual(['forbidden', 'not-signed-in']);
  });

  it('follow from what it is sent', () => {
    expect(beyond({ params: idParam })).toEqual(['invalid', 'not-found']);
    expect(beyond({ query: shape({ word: text }) })).toEqual(['invalid']);
    const body = ['invalid', 'not-json', 'other-kind', 'packed', 'too-deep', 'too-large'];
    expect(beyond({ body: shape({ word: text }) })).toEqual(body);
    expect(beyond({ body: shape({ word: text }), heavy: true })).toEqual(
      [...body, 'too-long', 'too-much-at-once', 'too-much-memory'].sort(),
    );
  });

  it('follow from whether it changes something, and something that was seen', () => {
    expect(beyond({ method: 'post' })).toEqual(['foreign-origin', 'token-missing']);
    expect(beyond({ method: 'post', may: 'an agent' })).toEqual(['unknown-agent']);
    expect(beyond({ versioned: true })).toEqual(['changed-meanwhile', 'version-missing']);
  });

  it('follow from whether it can be sent again', () => {
    expect(beyond({ method: 'post', may: 'signed in', partners: true })).toEqual([
      'call-differs',
      'call-under-way',
      'foreign-origin',
      'not-signed-in',
      'token-missing',
    ]);
  });

  it('are those that it names beside', () => {
    expect(beyond({ problems: ['name-taken', 'set-used'] })).toEqual(['name-taken', 'set-used']);
  });

  it('have a status that says whose matter they are, and words for those who read the description', () => {
    for (const [code, [status, means]] of Object.entries(PROBLEMS)) {
      expect(statusOf(code as ProblemCode)).toBe(status);
      expect(status, code).toBeGreaterThanOrEqual(400);
      expect(status, code).toBeLessThan(600);
      expect(means, code).toMatch(/^[A-Z].*\.$|^[A-Z].*: .*\.$/);
    }
  });
});
