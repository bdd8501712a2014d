import { cleanup, render } from '@testing-library/react';
import type { SessionAnswer } from '@zetopsis/contract';
import type { ReactElement } from 'react';
import { Provider } from 'react-redux';
import { createMemoryRouter } from 'react-router';
import { RouterProvider } from 'react-router/dom';
import { vi } from 'vitest';
import { makeStore } from './store.ts';

interface Asked {
  readonly method: string;
  readonly path: string;
  readonly body: unknown;
}
interface Answered {
  readonly status: number;
  readonly body: unknown;
}
type Answer = unknown | ((asked: Asked) => Answered | Promise<Answered>);

/** Stands in for the server's answers in tests of views: by the path's beginning, "METHOD /path". */
export function serveAnswers(answers: Record<string, Answer>) {
  const asked: Asked[] = [];
  vi.stubGlobal('fetch', async (request: Request) => {
    const url = new URL(request.url, 'http://zetopsis.test');
    const text = request.method === 'GET' ? '' : await request.text();
    const one: Asked = {
      method: request.method,
      path: `${url.pathname}${url.search}`,
      // a file goes over as it is
      body: text === '' ? null : request.headers.get('content-type') === 'text/plain' ? text : JSON.parse(text),
    };
    asked.push(one);
    const key = Object.keys(answers)
      .filter((candidate) => `${one.method} ${one.path}`.startsWith(candidate))
      .sort((a, b) => b.length - a.length)[0];
    const answer = key === undefined ? undefined : answers[key];
    const { status, body }: Answered =
      typeof answer === 'function'
        ? await answer(one)
        : {
            status: answer === undefined ? 404 : 200,
            body: answer ?? { code: 'notFound', text: 'nothing here', fields: [] },
          };
    return new Response(status === 204 ? null : JSON.stringify(body), {
      status,
      headers: { 'content-type': 'application/json' },
    });
  });
  return asked;
}

/** Draws a view at an address, with a store of its own. */
export function drawAt(path: string, element: ReactElement, route = '*') {
  const router = createMemoryRouter([{ path: route, element }], { initialEntries: [path] });
  render(
    <Provider store={makeStore()}>
      <RouterProvider router={router} />
    </Provider>,
  );
  return router;
}

export function cleanUp(): void {
  cleanup();
  vi.unstubAllGlobals();
}

/** Somebody who is signed in; maren administers. */
export const sessionAs = (role: 'administrator' | 'member'): SessionAnswer => ({
  person: { id: '00000000-0000-4000-8000-000000000001', name: 'maren', role },
  firstStart: false,
  demo: null,
  permits: [],
  administrators: ['maren'],
  teams: [],
  zone: 'UTC',
});
