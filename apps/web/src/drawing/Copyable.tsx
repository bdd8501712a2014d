import { Check, Copy } from 'lucide-react';
import { useState } from 'react';

/** Text to be taken elsewhere, with a button that copies it. */
export function Copyable({ text, label }: { text: string; label: string }) {
  const [copied, setCopied] = useState(false);
  return (
    <figure aria-label={label} className="border border-line bg-sheet">
      <figcaption className="flex items-center justify-between border-b border-hair px-3 py-1 text-xs text-soft">
        {label}
        <button
          type="button"
          className="flex items-center gap-1 hover:text-petrol"
          onClick={() => void navigator.clipboard.writeText(text).then(() => setCopied(true))}
        >
          {copied ? <Check size={13} /> : <Copy size={13} />} {copied ? 'copied' : 'copy'}
        </button>
      </figcaption>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard */}
      <pre tabIndex={0} className="max-h-64 overflow-auto px-3 py-2 font-mono text-xs">
        {text}
      </pre>
    </figure>
  );
}
