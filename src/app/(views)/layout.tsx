import type { ReactNode } from "react";
import { frameView } from "@/server/frame";
import { opened, readingFrame } from "@/server/opened";
import { CannotOpen } from "@/ui/frame/cannot-open";
import { Frame } from "@/ui/frame/frame";

export default async function ViewsLayout({ children }: { children: ReactNode }) {
  const { problem } = await opened();
  if (problem) return <CannotOpen title={problem.title} remedy={problem.remedy} />;
  const frame = await readingFrame(frameView);
  return frame && <Frame frame={frame}>{children}</Frame>;
}
