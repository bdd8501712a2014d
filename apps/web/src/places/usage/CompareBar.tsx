import { useView } from '../../frame/useView.ts';
import { lengthOf, shiftInWords } from '../../frame/windowModel.ts';

/** Says what is compared, and how it is drawn. */
export function CompareBar({ shift, unread }: { shift: number; unread: boolean }) {
  const { view, change } = useView();
  return (
    <div className="flex items-center gap-4 border-b border-line px-4 py-1 text-sm">
      <span>
        <svg width="30" height="9" className="mr-1.5 inline-block" aria-hidden="true">
          <path d="M0 3h30M0 6h30" stroke="var(--ink)" />
        </svg>
        compared with <b>{shiftInWords(shift, lengthOf(view.window))}</b>
        {unread ? (
          <b> · nothing was read then: it lies before what was read or brought in, as the tape shows</b>
        ) : (
          <span className="text-soft"> · figures at the right: mean of the window against mean then</span>
        )}
      </span>
      <label className="ml-auto flex items-center gap-1.5" title="strips or mirrored (key v)">
        <input
          type="checkbox"
          checked={view.mirror}
          onChange={(event) => void change({ mirror: event.target.checked }, { replace: true })}
        />
        mirrored, by swing
      </label>
      <button type="button" className="button-plain" onClick={() => void change({ shift: null, mirror: false })}>
        compare no more
      </button>
    </div>
  );
}
