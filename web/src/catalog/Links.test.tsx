// @vitest-environment jsdom
import type { AssetAnswer, LinkAnswer, LinkPreview } from '@idrel/contract/catalog';
import { screen, waitFor } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { pretended, refusal } from '../testing/view.tsx';
import { Links } from './Links.tsx';

const { show, served, asked } = pretended();
const asset = { id: 'a1', mayEdit: false } as AssetAnswer;
const link = (id: string, title: string): LinkAnswer => ({
  id,
  assetId: 'a1',
  kind: 'document',
  url: `https://wiki.example.org/${id}`,
  title,
  maker: null,
  createdAt: '2026-11-01T00:00:00Z',
  version: 1,
});
const preview = (linkId: string, more: Partial<LinkPreview>): LinkPreview => ({
  linkId,
  title: null,
  text: null,
  site: null,
  problem: null,
  ...more,
});

describe('the links of an asset', () => {
  it('say what their pages say of themselves, nothing twice, and what is wrong with them', async () => {
    served['GET /assets/a1/links'] = [link('one', 'How we count'), link('two', 'Plan'), link('three', 'Elsewhere')];
    served['GET /assets/a1/link-previews'] = [
      preview('one', { title: 'How we count', text: 'At the gangway.', site: 'Ashore' }),
      preview('two', { problem: 'The page is not there any more (404).' }),
    ];
    show(<Links asset={asset} />);
    await screen.findByText('At the gangway.');
    expect(screen.getAllByText('How we count')).toHaveLength(1);
    expect(screen.getByText('Ashore')).toBeTruthy();
    expect(screen.getByText('The page is not there any more (404).').className).toContain('attention');
    expect(document.querySelectorAll('.preview')).toHaveLength(1);
  });

  it('stand there while their pages cannot be looked at', async () => {
    served['GET /assets/a1/links'] = [link('one', 'How we count')];
    served['GET /assets/a1/link-previews'] = refusal(500, 'internal', 'It fell.');
    show(<Links asset={asset} />);
    await screen.findByText('How we count');
    await waitFor(() => expect(asked.map(({ path }) => path)).toContain('/assets/a1/link-previews'));
    expect(screen.getByText('How we count')).toBeTruthy();
  });

  it('are not asked for what their pages say where there are none', async () => {
    served['GET /assets/a2/links'] = [];
    show(<Links asset={{ ...asset, id: 'a2' }} />);
    await screen.findByText('none yet');
    expect(asked.map(({ path }) => path)).toEqual(['/assets/a2/links']);
  });
});
