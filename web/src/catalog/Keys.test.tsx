// @vitest-environment jsdom
import type { AssetAnswer, AssetKeys } from '@idrel/contract/catalog';
import { screen } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { pretended, refusal } from '../testing/view.tsx';
import { Keys } from './Keys.tsx';

const { show, served, asked } = pretended();
const berth = { id: 'a1', name: 'berth' } as AssetAnswer;
const joined = (path: string, id: string | null = path): AssetKeys['refersTo'][number] => ({
  id,
  kind: 'table',
  path,
  columns: [{ mine: 'number', theirs: 'berth_number' }],
});
const keys = (more: Partial<AssetKeys>): AssetKeys => ({
  key: ['port_code', 'number'],
  refersTo: [],
  refersToMore: false,
  referredBy: [],
  referredByMore: false,
  ...more,
});
const titles = () => [...document.querySelectorAll('.box')].map((box) => box.getAttribute('title'));

describe('the keys of a table, drawn', () => {
  it('lead to what refers to it and to what it refers to, and say by which columns, from what refers to what is meant', async () => {
    served['GET /assets/a1/keys'] = keys({
      referredBy: [joined('port.mooring')],
      refersTo: [joined('ref.port'), joined('crew.watch', null)],
    });
    show(<Keys asset={berth} />);
    const link = await screen.findByTitle('port.mooring: berth_number → number');
    expect(link.getAttribute('href')).toBe('/assets/port.mooring');
    expect(titles()).toEqual([
      'port_code, number',
      'port.mooring: berth_number → number',
      'ref.port: number → berth_number',
      'crew.watch, which is not to be seen here: number → berth_number',
    ]);
    expect(document.querySelectorAll('.neighbourhood path')).toHaveLength(3);
    expect(screen.getByTitle(/^crew.watch/).tagName).toBe('SPAN');
  });

  it('are drawn five at a side until one asks for the others, and a number that is not whole says so', async () => {
    served['GET /assets/a1/keys'] = keys({
      referredBy: Array.from({ length: 7 }, (_, at) => joined(`t${at}`)),
      referredByMore: true,
      refersTo: [joined('ref.port')],
    });
    const user = show(<Keys asset={berth} />);
    await screen.findByText('7+ refer to it');
    expect(titles()).toHaveLength(7);
    await user.click(screen.getByRole('button', { name: 'Draw 2 more tables' }));
    expect(titles()).toHaveLength(9);
    expect(screen.queryByRole('button')).toBeNull();
  });

  it('are nothing where the source declares none, and a trouble where they cannot be told', async () => {
    served['GET /assets/a1/keys'] = keys({ key: [] });
    show(<Keys asset={berth} />);
    await expect.poll(() => asked.length).toBe(1);
    expect(screen.queryByRole('heading')).toBeNull();
    served['GET /assets/a2/keys'] = refusal(500, 'internal', 'It broke.');
    show(<Keys asset={{ ...berth, id: 'a2' }} />);
    await screen.findByText(/Its keys cannot be shown/);
  });
});
