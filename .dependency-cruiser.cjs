// Who may import whom. The rooms: core, contract, server, ui, app, standins, demo, and cli (the command's words).
const room = (name) => `^src/${name}/`;
const only = (from, allowed, but = []) => ({
  name: `${from}-imports-only-${allowed.join("-") || "itself"}`,
  severity: "error",
  from: { path: room(from), pathNot: ["\\.test\\.tsx?$", ...but] },
  to: { path: "^src/", pathNot: [from, ...allowed].map(room) },
});
module.exports = {
  forbidden: [
    only("core", []),
    only("contract", ["core"]),
    // The stand-ins of the sample account come in by one door.
    only("server", ["core", "contract"], ["^src/server/depots/standins\\.ts$"]),
    only("ui", ["core", "contract"]),
    only("app", ["core", "contract", "server", "ui"]),
    only("standins", ["core", "contract"]),
    only("demo", ["core", "contract", "server", "standins"]),
    only("cli", ["core", "contract", "server", "demo", "standins"]),
    {
      name: "core-is-pure",
      severity: "error",
      from: { path: room("core"), pathNot: "\\.test\\.ts$" },
      // Zod reads data, ical.js tells days from a rule, chrono-node a date from words, linear-sum-assignment assigns; none does anything else.
      to: {
        pathNot: "node_modules/(zod|ical.js|chrono-node|linear-sum-assignment)/",
        dependencyTypes: ["core", "npm", "npm-dev", "npm-no-pkg", "unknown", "undetermined"],
      },
    },
    {
      name: "only-disk-opens-account-files",
      severity: "error",
      from: {
        path: "^src/(server|app)/",
        pathNot: [
          "^src/server/(disk|jobs|db|guard|opening|data-file|depots/(sign-ins|kinds/trust)|looks/(picture-cache|looking-apart|look-process|readers/))",
          "\\.test\\.ts$",
        ],
      },
      to: { path: "^(node:)?fs(/promises)?$" },
    },
    { name: "no-cycles", severity: "error", from: {}, to: { circular: true } },
    { name: "no-unresolved", severity: "error", from: {}, to: { couldNotResolve: true } },
  ],
  options: {
    doNotFollow: { path: "node_modules" },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: "tsconfig.json" },
    enhancedResolveOptions: { exportsFields: ["exports"], conditionNames: ["import", "require", "node", "default", "types"] },
  },
};
