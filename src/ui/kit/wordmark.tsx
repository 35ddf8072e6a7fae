/** The name of the program as it is drawn: its o is a ring, a bare place. */
export function Wordmark() {
  return (
    <span role="img" aria-label="Vuoto" className="text-[19px] font-bold tracking-[-0.02em] whitespace-nowrap">
      vu
      <i className="mx-px -mb-px inline-block size-[11px] rounded-full border-[2.5px] border-ink" />
      to
    </span>
  );
}
