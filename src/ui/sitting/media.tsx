"use client";
import { useRef, useState } from "react";
import type { LookView, Shown } from "@/contract/looks";
import { Key } from "../kit/key";
import { useKeys } from "../kit/keys";
import { Glyph } from "../plan/glyph";

type Played = Extract<LookView, { form: "sound" | "video" }>;

/** Played from where it lies, by the browser's own means; what it cannot play is said. Of a sound its wave, where it can be heard here. */
export function Media({ thing, look }: { thing: Shown; look: Played }) {
  const [failed, setFailed] = useState(false);
  const [part, setPart] = useState(0);
  const player = useRef<HTMLMediaElement>(null);
  const playing = () => {
    const at = player.current;
    if (at) void (at.paused ? at.play().catch(() => setFailed(true)) : at.pause());
  };
  useKeys(failed ? {} : { " ": playing });
  const wave = look.form === "sound" ? look.wave : undefined;
  const tags = look.form === "sound" ? look.tags : undefined;
  const seek = (share: number) => {
    const at = player.current;
    if (at && Number.isFinite(at.duration)) at.currentTime = share * at.duration;
  };
  const played = {
    src: `/api/looks/media?item=${thing.id}`,
    controls: true,
    preload: "metadata",
    onError: () => setFailed(true),
    "aria-label": thing.name,
  } as const;
  const cannot = <p className="max-w-[420px] text-ink-2">This browser cannot play it. A program of its own may.</p>;
  if (look.form === "video")
    return failed ? (
      <div className="grid size-full place-content-center justify-items-center gap-4 p-8 text-center">
        <Glyph kind={thing.kind} width={64} />
        {cannot}
      </div>
    ) : (
      <video key={thing.id} ref={player as React.RefObject<HTMLVideoElement>} {...played} className="size-full object-contain" />
    );
  return (
    <div className="grid size-full content-center justify-items-center gap-5 p-8 text-center">
      {tags && (
        <p>
          {tags.title && <b className="block text-name font-semibold">{tags.title}</b>}
          <span className="text-ink-2">{[tags.artist, tags.album].filter((tag) => tag !== undefined).join(", ")}</span>
        </p>
      )}
      {wave ? <Wave wave={wave} part={part} onSeek={seek} /> : <Glyph kind={thing.kind} width={64} />}
      {failed ? (
        cannot
      ) : (
        <>
          <audio
            key={thing.id}
            ref={player as React.RefObject<HTMLAudioElement>}
            {...played}
            onTimeUpdate={({ currentTarget: at }) => setPart(at.duration > 0 ? at.currentTime / at.duration : 0)}
            className="w-[420px] max-w-full"
          />
          <p className="text-small text-ink-2">
            <Key>Space</Key> plays it, and pauses
          </p>
        </>
      )}
    </div>
  );
}

const height = 120;

/** The loudest of each moment, from the beginning to the end; what was played stands in colour. The player itself is reached by keys. */
function Wave({ wave, part, onSeek }: { wave: number[]; part: number; onSeek: (share: number) => void }) {
  return (
    <svg
      viewBox={`0 0 ${wave.length} ${height}`}
      preserveAspectRatio="none"
      className="h-[120px] w-full max-w-[620px] cursor-pointer"
      aria-hidden="true"
      onClick={(event) => {
        const box = event.currentTarget.getBoundingClientRect();
        onSeek((event.clientX - box.left) / box.width);
      }}
    >
      {wave.map((loud, n) => {
        const half = Math.max(0.5, (loud / 255) * (height / 2));
        return (
          <rect
            key={n}
            x={n + 0.1}
            y={height / 2 - half}
            width={0.8}
            height={half * 2}
            fill={n / wave.length < part ? "var(--verdigris)" : "var(--ink-2)"}
          />
        );
      })}
    </svg>
  );
}
