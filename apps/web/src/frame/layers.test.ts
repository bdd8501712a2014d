import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, it } from 'vitest';

const SOURCES = join(import.meta.dirname, '..');
const files = (readdirSync(SOURCES, { recursive: true }) as string[]).filter((name) => name.endsWith('.tsx'));

it('what stays in place lies below menus, and those below dialogs', () => {
  const layersOf = (element: RegExp) =>
    files.flatMap((name) => {
      const text = readFileSync(join(SOURCES, name), 'utf8');
      return [...text.matchAll(element)].map(([, attributes = '']) => ({
        name,
        layer: Number(/\bz-(\d+)\b/.exec(attributes)?.[1] ?? 0),
      }));
    });
  const sticky = layersOf(/className="([^"]*\bsticky\b[^"]*)"/g);
  const menus = layersOf(/<(?:Popover|DropdownMenu|Select)\.Content([^>]*)>/g);
  const dialogs = layersOf(/<(?:Alert)?Dialog\.(?:Content|Overlay)([^>]*)>/g);
  expect([sticky.length, menus.length, dialogs.length].every((count) => count > 2)).toBe(true);
  const lowest = (own: typeof menus) => Math.min(...own.map(({ layer }) => layer));
  expect(lowest(menus)).toBeGreaterThan(Math.max(...sticky.map(({ layer }) => layer)));
  expect(lowest(dialogs)).toBeGreaterThan(Math.max(...menus.map(({ layer }) => layer)));
});
