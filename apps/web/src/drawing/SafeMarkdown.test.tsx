import { render } from '@testing-library/react';
import fc from 'fast-check';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp } from '../state/testServer.tsx';
import { SafeMarkdown } from './SafeMarkdown.tsx';

afterEach(cleanUp);
const drawn = (text: string) => {
  const { container } = render(<SafeMarkdown text={text} />);
  return container;
};
describe('what somebody wrote', () => {
  it('has headings, lists, code and links', () => {
    const page = drawn('# Tide\n\n1. look at `gauge`\n2. see [the chart](https://charts.example/tides)\n');
    expect(page.querySelector('h1')?.textContent).toBe('Tide');
    expect([...page.querySelectorAll('ol li')].map(({ textContent }) => textContent)).toEqual([
      'look at gauge',
      'see the chart',
    ]);
    const link = page.querySelector('a')!;
    expect([link.getAttribute('href'), link.rel]).toEqual(['https://charts.example/tides', 'noreferrer noopener']);
  });
  it('runs nothing, fetches nothing and leads nowhere but into the web, whatever it is', () => {
    const piece = fc.constantFrom(
      '<script>alert(1)</script>',
      '<img src=x onerror=alert(1)>',
      '![x](https://spy.example/a.png)',
      '[x](javascript:alert(1))',
      '[x](data:text/html,hi)',
      '[x]( JaVaScRiPt:alert(1))',
      '<a href="javascript:x">y</a>',
      '[a]: javascript:alert(1)\n\n[a]',
      '<javascript:alert(1)>',
      '**bold**',
      '\n\n',
      '`',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 8 }), (pieces) => {
        const page = drawn(pieces.join(' '));
        expect(page.querySelectorAll('script, img, iframe, object, style').length).toBe(0);
        for (const link of page.querySelectorAll('a'))
          expect(link.getAttribute('href')).toMatch(/^(https?:\/\/|mailto:)/i);
        for (const element of page.querySelectorAll('*'))
          for (const name of element.getAttributeNames()) expect(name).not.toMatch(/^on/);
        cleanUp();
      }),
      { numRuns: 60 },
    );
  });
});
