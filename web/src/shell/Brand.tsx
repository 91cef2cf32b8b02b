/** The mark: a sun half above the line it feeds. */
export function Brand() {
  return (
    <svg width="26" height="26" viewBox="0 0 32 32" aria-hidden="true">
      <path d="M7 20a9 9 0 0 1 18 0" fill="none" stroke="#E8A15A" strokeWidth="3" />
      <path d="M4 20h24M16 20v7" stroke="#E8A15A" strokeWidth="2.5" />
    </svg>
  );
}
