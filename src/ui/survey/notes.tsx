"use client";
import { type RefObject, useLayoutEffect, useRef, useState } from "react";
import type { FindingView } from "@/contract/views";

/** The findings as notes in the margin. The one under pointer or focus lights its things and draws its line. */
export function Notes({
  findings,
  plan,
  lit,
  onLight,
  onChoose,
  onSettle,
  here,
}: {
  findings: FindingView[];
  plan: RefObject<HTMLDivElement | null>;
  lit?: FindingView;
  onLight: (finding?: FindingView) => void;
  onChoose: (ids: string[]) => void;
  onSettle: (finding: FindingView) => void;
  here: ReadonlySet<string>;
}) {
  if (findings.length === 0)
    return (
      <p className="text-ink-2">
        Every shortcut leads somewhere, nothing is empty or there twice, and nothing is open in a program.
      </p>
    );
  return (
    <section aria-label="findings">
      {findings.map((finding) => {
        const on = finding.items.filter((id) => here.has(id));
        return (
          <article
            key={finding.letter}
            className="relative mb-3.5 pl-[30px] leading-[1.32]"
            onPointerEnter={() => onLight(finding)}
            onPointerLeave={() => onLight(undefined)}
            onFocus={() => onLight(finding)}
            onBlur={() => onLight(undefined)}
          >
            <i
              data-note={finding.letter}
              className="absolute top-px left-0 grid size-[19px] place-content-center rounded-full border-[1.3px] border-ink text-[12px] leading-none font-semibold not-italic"
            >
              {finding.letter}
            </i>
            <h2 className="font-[650]">{finding.title}</h2>
            <p className="text-small text-ink-2">
              {finding.proof}
              {finding.wins && ` · ${finding.wins}`}
            </p>
            <p className="flex flex-wrap gap-x-4 text-small">
              {finding.settles && (
                <button type="button" className="doing" onClick={() => onSettle(finding)}>
                  let go of {finding.items.length === 1 ? "it" : `these ${finding.items.length}`}
                </button>
              )}
              {on.length > 0 ? (
                <button type="button" className="doing" onClick={() => onChoose(on)}>
                  {on.length === finding.items.length
                    ? finding.action
                    : on.length === 1
                      ? "choose the one here"
                      : `choose the ${on.length} here`}
                </button>
              ) : (
                <span className="text-ink-2">none of them lies here</span>
              )}
            </p>
          </article>
        );
      })}
      <Leader letter={lit?.letter} plan={plan} />
    </section>
  );
}

/** The line from a note to the nearest of its letters in the plan. */
function Leader({ letter, plan }: { letter?: string; plan: RefObject<HTMLDivElement | null> }) {
  const [path, setPath] = useState<string>();
  const svg = useRef<SVGSVGElement>(null);
  useLayoutEffect(() => {
    const note = letter && document.querySelector(`[data-note="${letter}"]`)?.getBoundingClientRect();
    const letters = [...(plan.current?.querySelectorAll(`[data-letter="${letter}"]`) ?? [])].map((e) =>
      e.getBoundingClientRect(),
    );
    const sheet = plan.current?.getBoundingClientRect();
    if (!note || !sheet || letters.length === 0) return setPath(undefined);
    const y = note.top + note.height / 2;
    const nearest = letters.reduce((best, one) =>
      sheet.right - one.right + Math.abs(one.top - y) < sheet.right - best.right + Math.abs(best.top - y) ? one : best,
    );
    const from = { x: nearest.right, y: nearest.top + nearest.height / 2 };
    const elbow = (sheet.right + note.left) / 2;
    setPath(`M${from.x} ${from.y}H${elbow}V${y}H${note.left}`);
  }, [letter, plan]);
  return (
    <svg ref={svg} aria-hidden="true" className="pointer-events-none fixed inset-0 z-30 size-full">
      {path && <path d={path} fill="none" stroke="var(--ink)" />}
    </svg>
  );
}
