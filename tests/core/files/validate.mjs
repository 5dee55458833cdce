// Prints what the glTF validator says of a file, as JSON.
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
const validator = createRequire(process.argv[2] + "/")("gltf-validator");
const report = await validator.validateBytes(new Uint8Array(readFileSync(process.argv[3])));
console.log(JSON.stringify(report.issues));
