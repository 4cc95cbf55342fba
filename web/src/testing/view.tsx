import { MantineProvider } from '@mantine/core';
import { Notifications, notifications } from '@mantine/notifications';
import { cleanup, render } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { ReactNode } from 'react';
import { Provider } from 'react-redux';
import { createMemoryRouter, RouterProvider } from 'react-router';
import { afterEach, beforeEach, vi } from 'vitest';
import { api } from '../app/api.ts';
import { KeysProvider } from '../app/keys.tsx';
import { store } from '../app/store.ts';
import { wholeAddresses } from './addresses.ts';

interface Asked {
  readonly method: string;
  readonly path: string;
  /** What stood behind the question mark, by name. */
  readonly query: Readonly<Record<string, string>>;
  readonly body: unknown;
  /** What If-Match named. */
  readonly version: string | null;
}
type Answer = unknown | ((asked: Asked) => unknown);

/** A refusal of the pretended server. */
export const refusal = (status: number, code: string, detail: string) => new Refusal(status, { status, code, detail });
class Refusal {
  readonly status: number;
  readonly problem: object;
  constructor(status: number, problem: object) {
    this.status = status;
    this.problem = problem;
  }
}

/**
 * Views of the interface over a pretended server, for the tests of a file: what is served stands under method and path (`GET /findings`), what was asked
 * is listed. Anything that is not served answers 404.
 */
export function pretended() {
  const served: Record<string, Answer> = {};
  const asked: Asked[] = [];
  beforeEach(() => {
    for (const key of Object.keys(served)) delete served[key];
    asked.length = 0;
    // jsdom lays nothing out, and has no media to ask.
    vi.stubGlobal('matchMedia', () => ({ matches: false, addEventListener() {}, removeEventListener() {} }));
    vi.stubGlobal(
      'ResizeObserver',
      class {
        observe() {}
        unobserve() {}
        disconnect() {}
      },
    );
    Element.prototype.scrollIntoView = () => undefined;
    // Fields that grow ask for it, and jsdom has no letters.
    Object.defineProperty(document, 'fonts', {
      configurable: true,
      value: { addEventListener() {}, removeEventListener() {} },
    });
    wholeAddresses();
    vi.stubGlobal('fetch', async (request: Request) => {
      const path = new URL(request.url).pathname.replace('/api/v1', '');
      const text = await request.text();
      const one: Asked = {
        method: request.method,
        path,
        query: Object.fromEntries(new URL(request.url).searchParams),
        body: text ? JSON.parse(text) : undefined,
        version: request.headers.get('if-match'),
      };
      asked.push(one);
      const operation = `${one.method} ${path}`;
      const answer = operation in served ? served[operation] : refusal(404, 'not-found', `${operation} is not served.`);
      const given = typeof answer === 'function' ? answer(one) : answer;
      const [status, body] = given instanceof Refusal ? [given.status, given.problem] : [200, given];
      return new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } });
    });
  });
  afterEach(() => {
    cleanup();
    notifications.clean();
    store.dispatch(api.util.resetApiState());
    vi.unstubAllGlobals();
  });
  return {
    served,
    /** What was sent that changes something. */
    changes: () => asked.filter(({ method }) => method !== 'GET'),
    asked,
    /** Shows a view at an address. @returns somebody who uses it */
    show(view: ReactNode, at = '/') {
      render(
        <MantineProvider env="test">
          <Provider store={store}>
            <KeysProvider>
              <Notifications />
              <RouterProvider router={createMemoryRouter([{ path: '*', element: view }], { initialEntries: [at] })} />
            </KeysProvider>
          </Provider>
        </MantineProvider>,
      );
      return userEvent.setup();
    },
  };
}
