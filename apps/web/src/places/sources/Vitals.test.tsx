import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import type { VitalsAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { calmStore } from '../../state/storeFixture.ts';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { Vitals } from './Vitals.tsx';

afterEach(cleanUp);
const mapping = { metric: 'container_memory_working_set_bytes', labels: { container: 'c' }, where: {}, factor: 1 };
const other = { ...mapping, metric: 'box_mem_kib', factor: 1024 };
const vital = 'container.memory.working_set';
const answer = (more: Partial<VitalsAnswer['vitals'][number]> = {}): VitalsAnswer => ({
  cluster: 'slipway',
  vitals: [
    { vital, mapping, mapped: false, series: 0, objects: 0, ofObjects: 4, example: null, problem: null, ...more },
  ],
  proposals: [{ vital, mapping: other, because: 'box_mem_kib has 4 series' }],
  metrics: ['box_mem_kib'],
});
const found = { mapping: other, mapped: true, series: 4, objects: 4, example: { of: 'tides/a main', value: 2 ** 30 } };
const connection = {
  id: '00000000-0000-4000-8000-000000000001',
  name: 'slipway',
  address: 'https://slipway.test',
  authority: '',
  nodePage: { path: '/metrics', intervalSeconds: 15 },
  environment: '',
  region: '',
  flavour: '',
  may: 'administer',
  state: 'reading',
  since: 0,
  reason: null,
  nextStep: null,
  lastContactAt: 0,
  kinds: [],
};

describe('vitals', () => {
  it('are proposed, tried, edited and saved; what is refused stays to be mended', async () => {
    let refuse = true;
    const asked = serveAnswers({
      'GET /api/sources': { at: 0, connections: [connection], endpoints: [], store: calmStore },
      'GET /api/vitals/slipway': answer(),
      'POST /api/vitals/slipway/try': answer(found),
      'PUT /api/vitals/slipway': () =>
        refuse
          ? { status: 409, body: { code: 'conflict', text: 'the label that names the pod is missing', fields: [] } }
          : { status: 200, body: answer(found) },
    });
    drawAt('/sources/vitals', <Vitals />);
    const row = await screen.findByRole('row', { name: /container\.memory\.working_set/ });
    expect(row.textContent).toContain('0 of 4 containers');
    fireEvent.click(screen.getByRole('button', { name: 'try it' }));
    await screen.findByText('all 4 containers');
    expect(screen.getByText('1.00 GiB at tides/a main')).toBeTruthy();
    expect(asked.some(({ method }) => method === 'PUT')).toBe(false);
    fireEvent.click(screen.getByRole('button', { name: `edit ${vital}` }));
    const factor = screen.getByLabelText(`factor of ${vital}`);
    fireEvent.change(factor, { target: { value: '1000' } });
    fireEvent.blur(factor);
    await waitFor(() =>
      expect(asked.filter(({ path }) => path.endsWith('/try')).at(-1)?.body).toMatchObject({
        vitals: { [vital]: { metric: 'box_mem_kib', factor: 1000 } },
      }),
    );
    await waitFor(() =>
      expect((screen.getByRole('button', { name: 'Save the mapping' }) as HTMLButtonElement).disabled).toBe(false),
    );
    fireEvent.click(screen.getByRole('button', { name: 'Save the mapping' }));
    expect((await screen.findByRole('alert')).textContent).toMatch(/names the pod is missing/);
    refuse = false;
    fireEvent.click(screen.getByRole('button', { name: 'Save the mapping' }));
    await waitFor(() => expect(screen.queryByRole('button', { name: 'Save the mapping' })).toBeNull());
    expect(
      within(screen.getByRole('region', { name: 'proposals' })).getByText('box_mem_kib has 4 series'),
    ).toBeTruthy();
  });
});
