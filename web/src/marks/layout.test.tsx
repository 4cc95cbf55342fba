// @vitest-environment jsdom
import { screen } from '@testing-library/react';
import { describe, expect, it, vi } from 'vitest';
import { pretended } from '../testing/view.tsx';
import { Beside, Choice, Panes, Part } from './layout.tsx';

const { show } = pretended();

describe('how a view is laid out', () => {
  it('a choice tells which one is open, and how far below others it lies', async () => {
    const choose = vi.fn();
    const user = show(
      <ul>
        <Choice chosen choose={choose}>
          Traveller
        </Choice>
        <Choice chosen={false} choose={choose} depth={2}>
          Minor
        </Choice>
      </ul>,
    );
    const [open, below] = screen.getAllByRole('button');
    expect([open, below].map((button) => button?.getAttribute('aria-current'))).toEqual(['true', 'false']);
    expect([open, below].map((button) => button?.style.getPropertyValue('--depth'))).toEqual(['0', '2']);
    await user.click(below as HTMLElement);
    expect(choose).toHaveBeenCalledOnce();
  });

  it('a part of a page is called by its heading, or by other words for those who hear it', () => {
    show(
      <>
        <Part title="Scan plans" actions={<button type="button">New plan</button>}>
          <p>Nightly</p>
        </Part>
        <Part title="Scan runs" label="Runs">
          <p>today</p>
        </Part>
      </>,
    );
    expect(screen.getByRole('region', { name: 'Scan plans' }).textContent).toBe('Scan plansNew planNightly');
    expect(screen.getByRole('region', { name: 'Runs' }).querySelector('h2')?.textContent).toBe('Scan runs');
  });

  it('halves have the widths that are asked for', () => {
    show(
      <>
        <Panes first="320px">
          <i>one</i>
        </Panes>
        <Beside first="2fr" second="1fr" gap={24}>
          <i>two</i>
        </Beside>
      </>,
    );
    const styleOf = (text: string) => screen.getByText(text).parentElement?.style;
    expect(styleOf('one')?.gridTemplateColumns).toBe('320px minmax(0, 1fr)');
    expect([styleOf('two')?.gridTemplateColumns, styleOf('two')?.gap]).toEqual(['2fr 1fr', '24px']);
  });
});
