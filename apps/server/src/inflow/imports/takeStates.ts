import { open } from 'node:fs/promises';
import { StateLine } from '@zetopsis/contract';
import { INVENTORY_KINDS, type InventoryKind, type InventoryObject, readObject } from '@zetopsis/core/inventory';

const LINE_CHARACTERS = 1024 * 1024;
const STATES_AT_ONCE = 500;

export interface TakenState {
  readonly object: InventoryObject;
  readonly from: number;
  readonly to: number;
}

/** Reads a file of states, a line each, from a line on; answers false where it was stopped before its end. */
export async function takeStates({
  path,
  linesDone,
  stops,
  stateOf: stateIn,
  write,
  wrong,
}: {
  readonly path: string;
  /** Lines that were looked at before. */
  readonly linesDone: number;
  readonly stops: () => boolean;
  readonly stateOf: (text: string) => TakenState | string;
  /** Every line up to `done` has been looked at. */
  readonly write: (states: readonly TakenState[], done: number) => Promise<void>;
  readonly wrong: (line: number, why: string) => void;
}): Promise<boolean> {
  const handle = await open(path);
  let line = 0;
  let batch: TakenState[] = [];
  const flush = async (done: number) => {
    await write(batch, done);
    batch = [];
  };
  try {
    for await (const text of handle.readLines()) {
      if (stops()) return false;
      line++;
      if (line <= linesDone || text.trim() === '') continue;
      const state = stateIn(text);
      if (typeof state === 'string') wrong(line, state);
      else {
        // within one statement two states that overlap would not see each other
        if (batch.some((one) => one.object.uid === state.object.uid && one.from < state.to && one.to > state.from))
          await flush(line - 1);
        batch.push(state);
      }
      if (batch.length === STATES_AT_ONCE) await flush(line);
    }
    await flush(line);
    return true;
  } finally {
    await handle.close();
  }
}

/** What a line says, or in words what is wrong with it. */
export function stateOf(text: string, now: number, fingerprint: (value: string) => string): TakenState | string {
  if (text.length > LINE_CHARACTERS) return 'it is longer than a state of an object may be';
  let foreign: unknown;
  try {
    foreign = JSON.parse(text);
  } catch {
    return 'it is not JSON';
  }
  const parsed = StateLine.safeParse(foreign);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    return `${issue?.path.join('.') || 'it'}: ${issue?.message ?? 'is not right'}`;
  }
  const { kind, object: wire } = parsed.data;
  const from = Date.parse(parsed.data.from);
  const to = Date.parse(parsed.data.to);
  if (!(INVENTORY_KINDS as readonly string[]).includes(kind)) return `“${kind.slice(0, 40)}” is no kind of object`;
  if (!(from < to)) return 'it ends before it begins';
  if (to > now) return 'it ends in the future';
  const object = readObject(kind as InventoryKind, wire, fingerprint); // looked at above
  return object ? { object, from, to } : 'the object has no name or no uid';
}
