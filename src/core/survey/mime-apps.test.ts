import { describe, expect, test } from "vitest";
import { execWords, programsFor, readMimeApps } from "./mime-apps";

describe("programs for a type", () => {
  test("the person's default comes before the system's, and what was taken away there is not found there again", () => {
    const own = readMimeApps(
      "[Default Applications]\napplication/pdf=mine.desktop;\n[Removed Associations]\napplication/pdf=old.desktop;\n# text/plain=no.desktop\n",
    );
    const system = readMimeApps(
      "[MIME Cache]\napplication/pdf=old.desktop;viewer.desktop;\ntext/plain=../evil.desktop;edit.desktop\n",
    );
    expect(programsFor("application/pdf", [own, system])).toEqual(["mine.desktop", "viewer.desktop"]);
    expect(programsFor("text/plain", [own, system])).toEqual(["edit.desktop"]);
    expect(programsFor("image/png", [own, system])).toEqual([]);
  });
});

describe("an Exec value as an argument list", () => {
  const file = { path: "/h/a; rm -rf $HOME.pdf", address: "file:///h/a%3B.pdf", title: "View", entry: "/apps/view.desktop" };
  test.each([
    ["view %f", ["view", file.path]],
    ["view --new %U", ["view", "--new", file.address]],
    ['"/opt/my view/run" --title=%c %F', ["/opt/my view/run", "--title=View", file.path]],
    ['env "A=\\$x" view %%f', ["env", "A=$x", "view", "%f", file.path]],
    ["view --file=%f %i", ["view", `--file=${file.path}`]],
    ["view", ["view", file.path]],
  ])("%s", (exec, words) => {
    expect(execWords(exec, file)).toEqual(words);
  });

  test.each(["", "view %z", 'view "torn', '""'])("%s is none", (exec) => {
    expect(execWords(exec, file)).toBeUndefined();
  });
});
