/** A key, as it is drawn on a button or in a sentence. */
export function Key({ children }: { children: string }) {
  return (
    <kbd className="inline-block rounded-[3px] border border-b-2 border-line bg-sheet px-[5px] font-mono text-[11px] leading-4 font-medium text-ink">
      {children}
    </kbd>
  );
}
