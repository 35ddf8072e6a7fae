"use client";
import Draw from "react-markdown";
import gfm from "remark-gfm";

/** Markdown as it is meant. Nothing in it is fetched, and none of its links leads anywhere: it is looked at, not opened. */
export default function Markdown({ text }: { text: string }) {
  return (
    <div className="drawn max-w-[70ch] leading-[1.6]">
      <Draw
        remarkPlugins={[gfm]}
        components={{
          a: ({ children, href }) => (
            <span className="underline decoration-line" title={href}>
              {children}
            </span>
          ),
          img: ({ alt }) => <span className="text-ink-2">[picture{alt ? `: ${alt}` : ""}]</span>,
          input: ({ checked }) => <span>{checked ? "☑ " : "☐ "}</span>,
          h1: ({ children }) => <h3 className="mb-3 text-name font-semibold">{children}</h3>,
          h2: ({ children }) => <h4 className="mt-5 mb-2 text-[17px] font-semibold">{children}</h4>,
          h3: ({ children }) => <h5 className="mt-4 mb-1 font-semibold">{children}</h5>,
        }}
      >
        {text}
      </Draw>
    </div>
  );
}
