import { DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import { useSessionQuery, useSignOutMutation } from '../state/sessionApi.ts';
import { chooseLook, type Look, storedLook } from './look.ts';

const LOOKS: readonly { look: Look; name: string }[] = [
  { look: 'system', name: 'day or night as the system has it' },
  { look: 'day', name: 'day' },
  { look: 'night', name: 'night' },
];

export function PersonMenu() {
  const { data } = useSessionQuery();
  const [signOut] = useSignOutMutation();
  const [look, setLook] = useState(storedLook);
  const item = 'cursor-default px-3 py-1.5 outline-none data-[highlighted]:bg-ground data-[highlighted]:text-petrol';
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="font-semibold hover:text-petrol">
        {data?.person?.name ?? ''} ▾
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className="z-30 min-w-56 border border-structure bg-sheet py-1 text-sm"
        >
          <DropdownMenu.Label className="px-3 py-1.5 text-soft">
            signed in as {data?.person?.role}
            {data && data.teams.length > 0 && ` of ${data.teams.join(', ')}`}
          </DropdownMenu.Label>
          <DropdownMenu.RadioGroup
            value={look}
            onValueChange={(next) => {
              const chosen = LOOKS.find((candidate) => candidate.look === next)?.look ?? 'system';
              setLook(chosen);
              chooseLook(chosen);
            }}
          >
            {LOOKS.map(({ look: value, name }) => (
              <DropdownMenu.RadioItem key={value} value={value} className={`${item} pl-7`}>
                <DropdownMenu.ItemIndicator className="absolute -ml-4">✓</DropdownMenu.ItemIndicator>
                {name}
              </DropdownMenu.RadioItem>
            ))}
          </DropdownMenu.RadioGroup>
          <DropdownMenu.Separator className="my-1 border-t border-line" />
          <DropdownMenu.Item className={item} onSelect={() => void signOut()}>
            sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
