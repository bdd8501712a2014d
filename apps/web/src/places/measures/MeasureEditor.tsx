import { autocompletion, completionKeymap } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { type Diagnostic, linter } from '@codemirror/lint';
import { EditorState, Prec } from '@codemirror/state';
import { EditorView, keymap, placeholder } from '@codemirror/view';
import { parseMeasure } from '@zetopsis/core/measures';
import { useEffect, useRef } from 'react';
import { complete, type Occurring } from './completion.ts';

interface Props {
  readonly text: string;
  readonly setText: (text: string) => void;
  readonly ask: () => void;
  readonly occurring: Occurring;
}
function problemsIn(view: EditorView): Diagnostic[] {
  const text = view.state.doc.toString();
  if (text.trim() === '') return [];
  const read = parseMeasure(text);
  if ('body' in read) return [];
  const { at, text: message, nearest } = read.problem;
  const line = view.state.doc.line(Math.min(at?.line ?? 1, view.state.doc.lines));
  const from = Math.min(line.from + (at?.column ?? 1) - 1, text.length);
  return [
    {
      from: Math.max(0, from === text.length ? from - 1 : from),
      to: Math.min(text.length, from + 1),
      severity: 'error',
      message: nearest === null ? message : `${message}; “${nearest}” is the nearest`,
    },
  ];
}

/** Text of a measure: problems stand where they are, Ctrl and Enter asks. */
export function MeasureEditor({ text, setText, ask, occurring }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const latest = useRef({ setText, ask, occurring });
  latest.current = { setText, ask, occurring };
  useEffect(() => {
    const own = new EditorView({
      parent: box.current!, // it is drawn
      state: EditorState.create({
        doc: text,
        extensions: [
          history(),
          Prec.highest(
            keymap.of([
              {
                key: 'Mod-Enter',
                run: () => {
                  latest.current.ask();
                  return true;
                },
              },
            ]),
          ),
          keymap.of([...completionKeymap, ...defaultKeymap, ...historyKeymap]),
          autocompletion({
            override: [(context) => complete(context, latest.current.occurring)],
            icons: false,
          }),
          linter(problemsIn, { delay: 300 }),
          placeholder('read NAME, then steps; Ctrl and Space completes'),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ 'aria-label': 'text of the measure' }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) latest.current.setText(update.state.doc.toString());
          }),
        ],
      }),
    });
    view.current = own;
    return () => own.destroy();
    // the editor is made once; what it calls is looked up when it calls
  }, []);
  useEffect(() => {
    const own = view.current;
    // what was chosen elsewhere, not what is being typed
    if (own && own.state.doc.toString() !== text)
      own.dispatch({ changes: { from: 0, to: own.state.doc.length, insert: text } });
  }, [text]);
  return <div ref={box} className="measure-editor border border-structure bg-sheet font-mono text-sm" />;
}
