/** Said where a search ended before it was through: its time was up. */
export function CutShort({ what }: { what: string }) {
  return (
    <p role="status" className="my-1 text-sm text-caution">
      The time was up before everything was tried: {what}
    </p>
  );
}
