import { fireEvent, screen, waitFor } from '@testing-library/react';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../state/testServer.tsx';
import { Gate } from './Gate.tsx';

afterEach(cleanUp);
const person = { id: '00000000-0000-4000-8000-000000000000', name: 'maren', role: 'administrator' };
const session = (part: object) => ({
  person: null,
  firstStart: false,
  demo: null,
  zone: 'UTC',
  teams: [],
  permits: [],
  administrators: ['maren'],
  ...part,
});
const inside = (
  <Gate>
    <p>inside</p>
  </Gate>
);

describe('the gate', () => {
  it('lets in who has signed in', async () => {
    serveAnswers({ 'GET /api/session': session({ person }) });
    drawAt('/', inside);
    expect(await screen.findByText('inside')).toBeTruthy();
  });
  it('asks strangers to sign in, and says why it refuses', async () => {
    let signedIn = false;
    const asked = serveAnswers({
      'GET /api/session': () => ({ status: 200, body: session(signedIn ? { person } : {}) }),
      'POST /api/session': ({ body }: { body: unknown }) => {
        signedIn = (body as { password: string }).password === 'right';
        return signedIn
          ? { status: 200, body: person }
          : { status: 401, body: { code: 'notSignedIn', text: 'Name and password do not fit together.', fields: [] } };
      },
    });
    drawAt('/now', inside);
    fireEvent.click(await screen.findByRole('button', { name: 'Sign in' }));
    expect((await screen.findAllByRole('alert')).map((alert) => alert.textContent)).toEqual([
      'who are you?',
      'the password is missing',
    ]);
    expect(asked.filter(({ method }) => method === 'POST')).toEqual([]);
    fireEvent.change(screen.getByLabelText('Name'), { target: { value: ' Maren ' } });
    fireEvent.change(screen.getByLabelText('Password'), { target: { value: 'wrong' } });
    fireEvent.click(screen.getByRole('button', { name: 'Sign in' }));
    expect((await screen.findByRole('alert')).textContent).toBe('Name and password do not fit together.');
    fireEvent.change(screen.getByLabelText('Password'), { target: { value: 'right' } });
    fireEvent.click(screen.getByRole('button', { name: 'Sign in' }));
    expect(await screen.findByText('inside')).toBeTruthy();
    expect(asked.filter(({ method }) => method === 'POST').at(-1)?.body).toEqual({ name: 'maren', password: 'right' });
  });
  it('lists people and password in demo mode only', async () => {
    serveAnswers({
      'GET /api/session': session({
        demo: {
          people: [{ name: 'tove', does: 'Ferries developer' }],
          password: 'harbour-1',
          mailPage: 'http://mail.test/',
        },
      }),
    });
    drawAt('/', inside);
    expect(await screen.findByRole('button', { name: 'sign in as tove' })).toBeTruthy();
    expect(screen.getByText('harbour-1')).toBeTruthy();
    cleanUp();
    serveAnswers({ 'GET /api/session': session({}) });
    drawAt('/', inside);
    await screen.findByRole('button', { name: 'Sign in' });
    expect(screen.queryByText('Demo')).toBeNull();
  });
  it('makes the first administrator with the printed code, and tells what is wrong with it', async () => {
    serveAnswers({
      'GET /api/session': session({ firstStart: true }),
      'POST /api/first-person': () => ({
        status: 400,
        body: {
          code: 'invalid',
          text: 'This is not the code.',
          fields: [{ path: 'code', text: 'not the printed code' }],
        },
      }),
    });
    drawAt('/', inside);
    fireEvent.change(await screen.findByLabelText('One-time code'), { target: { value: 'guess' } });
    fireEvent.change(screen.getByLabelText('Name'), { target: { value: 'maren' } });
    fireEvent.change(screen.getByLabelText('Password'), { target: { value: 'short' } });
    fireEvent.click(screen.getByRole('button', { name: 'Make the account' }));
    expect((await screen.findByRole('alert')).textContent).toBe('a password has at least 10 characters');
    fireEvent.change(screen.getByLabelText('Password'), { target: { value: 'long enough now' } });
    fireEvent.click(screen.getByRole('button', { name: 'Make the account' }));
    await waitFor(() => expect(screen.getByRole('alert').textContent).toBe('not the printed code'));
    expect((screen.getByLabelText('Name') as HTMLInputElement).value).toBe('maren');
  });
  it('says that the server is away, and comes in when it is back', async () => {
    let away = true;
    serveAnswers({
      'GET /api/session': () =>
        away ? { status: 502, body: 'bad gateway' } : { status: 200, body: session({ person }) },
    });
    drawAt('/', inside);
    expect((await screen.findByRole('alert')).textContent).toContain('cannot be reached');
    away = false;
    fireEvent.click(screen.getByRole('button', { name: 'try again' }));
    expect(await screen.findByText('inside')).toBeTruthy();
  });
});
