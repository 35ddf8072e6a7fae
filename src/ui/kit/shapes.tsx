import type { Outcome } from "@/contract/views";

/** The shape of each verdict, and of what became a note: told by form as well as by tone. */
export function VerdictShape({ verdict, size = 22 }: { verdict: Outcome; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 22 22" aria-hidden="true">
      {verdict === "stay" && <circle cx="11" cy="11" r="8.5" fill="none" stroke="var(--stay)" strokeWidth="2.4" />}
      {verdict === "put away" && <path d="M2 20V2h18v18z" fill="var(--put)" />}
      {verdict === "archive" && <path d="M11 1 21 11 11 21 1 11Z" fill="var(--archive)" />}
      {verdict === "wait" && (
        <>
          <path d="M11 2a9 9 0 0 1 0 18z" fill="var(--wait)" />
          <circle cx="11" cy="11" r="9" fill="none" stroke="var(--wait)" strokeWidth="2" />
        </>
      )}
      {verdict === "note" && <path d="M4 2h9l5 5v13H4zM8 11h6M8 15h6" fill="none" stroke="var(--put)" strokeWidth="2" />}
      {verdict === "let go" && <path d="M3 3 19 19M19 3 3 19" stroke="var(--let-go)" strokeWidth="3" />}
    </svg>
  );
}
