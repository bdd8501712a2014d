import { Dialog } from 'radix-ui';
import { PLACES } from './places.ts';

const KEYS: readonly (readonly [string, string])[] = [
  ...PLACES.map(({ name, question }, i) => [String(i + 1), `${name}: ${question}`] as const),
  ['/ or Ctrl k', 'go to anything: an object, a place, a moment'],
  ['↑ ↓ or j k', 'move within a list or column'],
  ['← → or h l', 'move between columns'],
  ['Enter', 'open the object sheet'],
  ['Esc', 'close it'],
  ['m', 'change between CPU and memory'],
  ['[ ]', 'step the window back and forth'],
  ['0', 'back to now'],
  ['\\', 'swap the window and the one compared with'],
  ['n', 'in Usage: namespaces, nodes or teams'],
  ['t', 'in Usage: columns or a table'],
  ['f', 'in Usage: find in the last column'],
  ['v', 'in Usage: strips or mirrored, when comparing'],
  ['?', 'this list'],
];

export function KeyHelp({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ground/70" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-24 left-1/2 z-40 w-[440px] -translate-x-1/2 border border-ink bg-sheet p-5"
        >
          <Dialog.Title className="section-title mb-3">Keys</Dialog.Title>
          <dl className="grid grid-cols-[120px_1fr] gap-y-1.5">
            {KEYS.map(([key, what]) => (
              <div key={key} className="contents">
                <dt className="font-mono text-sm">{key}</dt>
                <dd>{what}</dd>
              </div>
            ))}
          </dl>
          <p className="mt-3 border-t border-hair pt-2 text-sm text-soft">
            A strip’s shade is its tightness, by which lists are sorted: how near to its limit it was for 95 % of the
            window.
          </p>
          <Dialog.Close className="button mt-4">close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
