/** Day or night: follows the system until somebody forces one. */
export type Look = 'system' | 'day' | 'night';
const KEY = 'zetopsis.look';
const dark = () => window.matchMedia('(prefers-color-scheme: dark)');

export function storedLook(): Look {
  const stored = window.localStorage.getItem(KEY);
  return stored === 'day' || stored === 'night' ? stored : 'system';
}
function applyLook(look: Look): void {
  const night = look === 'night' || (look === 'system' && dark().matches);
  document.documentElement.dataset['look'] = night ? 'night' : 'day';
}
export function chooseLook(look: Look): void {
  if (look === 'system') window.localStorage.removeItem(KEY);
  else window.localStorage.setItem(KEY, look);
  applyLook(look);
}
export function followSystem(): void {
  applyLook(storedLook());
  dark().addEventListener('change', () => applyLook(storedLook()));
}
