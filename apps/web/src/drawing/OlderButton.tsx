/** Loads the next page of a list that is ordered by time; nothing where there is none. */
export function OlderButton({
  what,
  pages,
}: {
  what: string;
  pages: { hasNextPage: boolean; isFetchingNextPage: boolean; fetchNextPage: () => unknown };
}) {
  if (!pages.hasNextPage) return null;
  return (
    <button
      type="button"
      className="button mt-3"
      disabled={pages.isFetchingNextPage}
      onClick={() => void pages.fetchNextPage()}
    >
      older {what}
    </button>
  );
}
