// @vitest-environment jsdom
import type { AssetAnswer } from '@idrel/contract/catalog';
import { screen, waitFor } from '@testing-library/react';
import { expect, it } from 'vitest';
import { pretended } from '../testing/view.tsx';
import { PriorityChooser } from './PriorityChooser.tsx';

const { served, show, changes } = pretended();
type Facts = AssetAnswer['priorityFacts'];
const asset = (more: Partial<Facts>, mayEdit = true) =>
  ({
    id: 'a',
    version: 4,
    mayEdit,
    priorityFacts: {
      stated: null,
      reason: null,
      own: 0,
      rule: null,
      inherited: 0,
      from: null,
      distance: null,
      ...more,
    },
  }) as AssetAnswer;
const ME = { person: { id: 'me', name: 'Sunniva Dahlmark', job: '', grants: [] }, csrf: 'x', demoPeople: [] };

it('its own priority and what it inherits are told apart, each with where it comes from', () => {
  Object.assign(served, { 'GET /session': ME });
  show(
    <PriorityChooser
      asset={asset({
        own: 1,
        rule: { id: 'r', name: 'Asked for most' },
        inherited: 2,
        from: { id: 'd', kind: 'dashboard', path: 'Fares at a glance' },
        distance: 4,
      })}
    />,
  );
  expect(screen.getByText('important')).toBeTruthy();
  expect(screen.getByText('by the rule “Asked for most”')).toBeTruthy();
  expect(screen.getByText('critical')).toBeTruthy();
  expect(screen.getByRole('link', { name: 'Fares at a glance' }).getAttribute('href')).toBe('/assets/d');
  expect(screen.getByText(/4 steps away/)).toBeTruthy();
});

it('what somebody may not see is not named, and who may not edit is offered nothing', () => {
  Object.assign(served, { 'GET /session': ME });
  show(<PriorityChooser asset={asset({ inherited: 1, distance: 1 }, false)} />);
  expect(screen.getByText(/something that you may not see/)).toBeTruthy();
  expect(screen.queryByRole('button')).toBeNull();
});

it('is stated with a reason, or left to the rules again', async () => {
  Object.assign(served, {
    'GET /session': ME,
    'PATCH /assets/a': { ...asset({ stated: 2, own: 2, reason: 'The board reads it.' }), version: 5 },
  });
  const user = show(<PriorityChooser asset={asset({})} />);
  await user.click(screen.getByRole('button', { name: /Edit Priority/ }));
  await user.click(screen.getByRole('combobox', { name: 'Priority' }));
  await user.click(await screen.findByRole('option', { name: 'critical' }));
  await user.type(screen.getByLabelText('Reason'), 'The board reads it.');
  await user.click(screen.getByRole('button', { name: 'Save' }));
  await waitFor(() => expect(changes()).toHaveLength(1));
  expect(changes()[0]).toMatchObject({
    path: '/assets/a',
    version: '"v4"',
    body: { priority: 2, priorityReason: 'The board reads it.' },
  });
});
