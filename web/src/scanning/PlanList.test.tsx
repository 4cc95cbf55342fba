// @vitest-environment jsdom
import type { PlanAnswer } from '@idrel/contract/scanning';
import type { SourceAnswer } from '@idrel/contract/sources';
import { screen, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { pretended, refusal } from '../testing/view.tsx';
import { PlanList } from './PlanList.tsx';

const { served, show, changes } = pretended();
const source = { id: 'source', mayScan: true } as SourceAnswer;
const plan = (more: Partial<PlanAnswer> = {}): PlanAnswer => ({
  id: 'plan',
  sourceId: 'source',
  source: 'Booking system',
  name: 'Nightly',
  scope: { cover: 'all', chosen: [], include: [], exclude: [] } as never,
  scopeSentence: 'Everything, now and later.',
  options: { sample: true, rows: 500 } as never,
  schedule: { every: 'day' } as never,
  scheduleSentence: 'every day at 03:00 (Europe/Oslo)',
  enabled: true,
  next: ['2030-01-01T02:00:00Z'],
  version: 7,
  lastRun: null,
  mayEdit: true,
  ...more,
});
const serve = (plans: readonly PlanAnswer[], runs: readonly object[] = []) =>
  Object.assign(served, { 'GET /sources/source/plans': plans, 'GET /sources/source/runs': runs });
const row = async (name: string) => within(await screen.findByRole('row', { name: new RegExp(name) }));

describe('the plans of a source', () => {
  it('are paused upon the version that was seen, and say when nothing came of it', async () => {
    serve([plan()]);
    served['PATCH /plans/plan'] = refusal(412, 'changed-meanwhile', 'Somebody else changed this after you opened it.');
    const user = show(<PlanList source={source} />);
    await user.click((await row('Nightly')).getByRole('button', { name: 'Pause' }));
    expect(await screen.findByText('The plan was not changed')).toBeTruthy();
    expect(changes()).toMatchObject([{ body: { enabled: false }, version: '"v7"' }]);
  });

  it('come back as they were when their removal is undone; where they do not, that is said', async () => {
    serve([plan()]);
    served['DELETE /plans/plan'] = null;
    served['POST /sources/source/plans'] = refusal(409, 'name-taken', 'There already is a plan named “Nightly”.');
    const user = show(<PlanList source={source} />);
    await user.click((await row('Nightly')).getByRole('button', { name: 'Remove' }));
    await screen.findByText('The plan “Nightly” is removed; its runs stay.');
    await user.click(screen.getByRole('button', { name: 'Undo' }));
    expect(await screen.findByText('It could not be taken back')).toBeTruthy();
    expect(screen.getByText(/There already is a plan named “Nightly”/)).toBeTruthy();
    const { name, scope, options, schedule, enabled } = plan();
    expect(changes()[1]?.body).toEqual({ name, scope, options, schedule, enabled });
  });

  it('show what the last run did not cover, and how it ended', async () => {
    serve(
      [plan({ lastRun: { id: 'run', state: 'failed', at: '2026-11-26T02:00:00Z' }, enabled: false })],
      [{ id: 'run', state: 'done', notCovered: { count: 3, paths: ['ref.new_one', 'ref.other'] } }],
    );
    show(<PlanList source={source} />);
    const cells = await row('Nightly');
    expect(cells.getByText('failed').className).toBe('attention');
    expect(cells.getByText('paused')).toBeTruthy();
    expect(cells.getByRole('button', { name: 'Resume' })).toBeTruthy();
    expect(await screen.findByText('3 objects not covered')).toBeTruthy();
    expect(screen.getByText('ref.new_one, ref.other …')).toBeTruthy();
  });

  it('are only read by whoever may not change them', async () => {
    serve([plan({ mayEdit: false })]);
    show(<PlanList source={{ ...source, mayScan: false }} />);
    const cells = await row('Nightly');
    expect(cells.queryByRole('button')).toBeNull();
    expect(cells.queryByRole('link', { name: 'Nightly' })).toBeNull();
    expect(screen.queryByRole('link', { name: 'New plan' })).toBeNull();
  });

  it('say what a plan is where there is none', async () => {
    serve([]);
    show(<PlanList source={source} />);
    expect(await screen.findByText('No plan yet')).toBeTruthy();
    expect(screen.queryByRole('table')).toBeNull();
  });

  it('say what went wrong where they cannot be read', async () => {
    serve([]);
    served['GET /sources/source/plans'] = refusal(503, 'no-database', 'The database is not there at the moment.');
    show(<PlanList source={source} />);
    expect((await screen.findByRole('alert')).textContent).toContain('The plans cannot be shown');
    expect(screen.queryByText('No plan yet')).toBeNull();
  });
});
