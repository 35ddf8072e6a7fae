"use client";
import { Dialog as Radix } from "radix-ui";
import { type ReactNode, useRef } from "react";

/** What can have the focus and does nothing at a press of Enter that was not seen: not the button that a dialog is for. */
const harmless = ":is(input, select, textarea, summary, button, a[href], [tabindex='0']):not(.go, :disabled)";

/**
 * A sheet laid over the room. Escape and a press outside close it, and lead back to where the focus was. What has `data-first` has
 * it at first, else the first that does nothing for good: a second Enter, after the one that opened it, was not meant for it.
 */
export function Dialog({
  open,
  onClose,
  title,
  children,
  wide = false,
  onKey,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
  wide?: boolean;
  /** A key pressed anywhere in it but in a text field; answers whether it meant something. */
  onKey?: (key: string) => boolean;
}) {
  const opener = useRef<Element>(null);
  return (
    <Radix.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ground/75" />
        <Radix.Content
          aria-describedby={undefined}
          onOpenAutoFocus={(event) => {
            opener.current = document.activeElement;
            event.preventDefault();
            if (!(event.currentTarget instanceof HTMLElement)) return;
            const sheet = event.currentTarget;
            const first = sheet.querySelector<HTMLElement>("[data-first]") ?? sheet.querySelector<HTMLElement>(harmless) ?? sheet;
            first.focus();
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (opener.current instanceof HTMLElement) opener.current.focus();
          }}
          onKeyDown={(event) => {
            const text = event.target instanceof HTMLElement && event.target.matches("input:not([type=checkbox]), textarea");
            // What was meant here is no key of the view behind it too.
            if (!text && !event.ctrlKey && !event.metaKey && !event.altKey && onKey?.(event.key.toLowerCase()))
              event.preventDefault();
          }}
          className={`fixed left-1/2 z-50 -translate-x-1/2 overflow-auto border border-ink bg-sheet p-6 ${wide ? "top-[7vh] max-h-[84vh] w-[720px]" : "top-[14vh] max-h-[76vh] w-[520px]"} max-w-[92vw]`}
        >
          <Radix.Title className="mb-4 text-head leading-tight font-semibold">{title}</Radix.Title>
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
