import { AlertDialog } from 'radix-ui';
import type { ReactNode } from 'react';
import { useState } from 'react';

/** Asks once more before something that cannot be undone. `children` are told how to close it. */
export function Confirm({
  trigger,
  triggerClass,
  title,
  text,
  keep,
  children,
}: {
  trigger: string;
  triggerClass: string;
  title: string;
  text: ReactNode;
  /** The button that changes nothing. */
  keep: string;
  children: (close: () => void) => ReactNode;
}) {
  const [open, setOpen] = useState(false);
  return (
    <AlertDialog.Root open={open} onOpenChange={setOpen}>
      <AlertDialog.Trigger className={triggerClass}>{trigger}</AlertDialog.Trigger>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-ground/70" />
        <AlertDialog.Content className="fixed top-32 left-1/2 z-40 w-[440px] -translate-x-1/2 border border-ink bg-sheet p-5">
          <AlertDialog.Title className="section-title">{title}</AlertDialog.Title>
          <AlertDialog.Description className="my-3">{text}</AlertDialog.Description>
          <div className="flex flex-wrap gap-2">
            {children(() => setOpen(false))}
            <AlertDialog.Cancel className="button">{keep}</AlertDialog.Cancel>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
