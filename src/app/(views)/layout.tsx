import type { ReactNode } from "react";
import { frameView } from "@/server/frame";
import { homes } from "@/server/homes/homes";
import { opened, reading } from "@/server/opened";
import { CannotOpen } from "@/ui/frame/cannot-open";
import { Frame } from "@/ui/frame/frame";
import { HomesProvider } from "@/ui/kit/homes";

export default async function ViewsLayout({ children }: { children: ReactNode }) {
  const { problem } = await opened();
  if (problem) return <CannotOpen title={problem.title} remedy={problem.remedy} />;
  const around = await reading((engine) => ({
    frame: frameView(engine),
    homes: homes(engine).map(({ id, title, files }) => ({ id, title, files })),
  }));
  return (
    around && (
      <HomesProvider homes={around.homes}>
        <Frame frame={around.frame}>{children}</Frame>
      </HomesProvider>
    )
  );
}
