import type { ReactNode } from "react";
import { frameView } from "@/server/frame";
import { homes } from "@/server/homes/homes";
import { opened } from "@/server/opened";
import { CannotOpen } from "@/ui/frame/cannot-open";
import { Frame } from "@/ui/frame/frame";
import { HomesProvider } from "@/ui/kit/homes";

export default async function ViewsLayout({ children }: { children: ReactNode }) {
  const { engine, problem } = await opened();
  if (!engine) return <CannotOpen title={problem.title} remedy={problem.remedy} />;
  return (
    <HomesProvider homes={homes(engine).map(({ id, title, files }) => ({ id, title, files }))}>
      <Frame frame={frameView(engine)}>{children}</Frame>
    </HomesProvider>
  );
}
