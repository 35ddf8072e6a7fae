// Checks who imports whom, and fails if it saw no modules.
import { cruise } from "dependency-cruiser";
import extractDepcruiseOptions from "dependency-cruiser/config-utl/extract-depcruise-options";
import extractTSConfig from "dependency-cruiser/config-utl/extract-ts-config";

const options = await extractDepcruiseOptions("./.dependency-cruiser.cjs");
const { output, exitCode } = await cruise(["src"], { ...options, outputType: "err" }, undefined, {
  tsConfig: extractTSConfig("./tsconfig.json"),
});
const { output: all } = await cruise(["src"], options, undefined, { tsConfig: extractTSConfig("./tsconfig.json") });
const seen = all.modules.filter((module) => module.source.startsWith("src/"));
const links = seen.reduce((sum, module) => sum + module.dependencies.length, 0);
process.stdout.write(`${output}${seen.length} modules, ${links} imports\n`);
if (seen.length < 50 || links < 100) {
  process.stdout.write("too few were seen: the checker is blind\n");
  process.exit(1);
}
process.exit(exitCode);
