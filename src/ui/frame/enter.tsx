import { Wordmark } from "../kit/wordmark";

/** The page of a one-time link: one button, which works without script. Looking at it uses nothing up. */
export function Enter({ link, to, stands }: { link?: string; to?: string; stands: boolean }) {
  return (
    <main className="grid h-full place-content-center gap-4 p-10">
      <Wordmark />
      {stands ? (
        <>
          <h1 className="max-w-[640px] text-say leading-tight font-medium">Let this browser in?</h1>
          <p className="max-w-[560px]">
            Vuoto shows what lies on your desktop and in downloads, helps you to put it away or let it go, and takes the icons out
            of sight. It works on this computer alone. Looking changes nothing, and what you do can be undone, but for what you
            erase for good.
          </p>
          <p className="max-w-[560px] text-small text-ink-2">
            A browser that is let in can see and move everything that Vuoto can. It stays let in until it was not used for thirty
            days, or until you shut it out.
          </p>
          <form method="post" action="/api/guard/enter">
            <input type="hidden" name="link" value={link} />
            {to && <input type="hidden" name="to" value={to} />}
            <button type="submit" className="go">
              Let this browser in
            </button>
          </form>
        </>
      ) : (
        <>
          <h1 className="max-w-[640px] text-say leading-tight font-medium">
            {link === undefined ? "This browser has not been let in." : "This link was used already, or is too old."}
          </h1>
          <p className="max-w-[560px] text-ink-2">
            Open Vuoto from your programs, or with the command <code className="font-mono">vuoto open</code>: each makes a fresh
            link.
          </p>
        </>
      )}
    </main>
  );
}
