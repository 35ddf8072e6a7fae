/** The page when the account could not be opened: what is wrong and what to do, and nothing else. */
export function CannotOpen({ title, remedy }: { title: string; remedy: string }) {
  return (
    <main className="grid h-full place-content-center gap-3 p-10">
      <h1 className="max-w-[640px] text-say leading-tight font-medium">{title}</h1>
      <p className="text-ink-2">{remedy}</p>
    </main>
  );
}
