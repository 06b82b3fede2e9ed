// Validates a glTF file: node validate-gltf.mjs FILE. Prints errors and warnings; fails on errors.
import { readFileSync } from "node:fs";
import validator from "gltf-validator";

const report = await validator.validateBytes(new Uint8Array(readFileSync(process.argv[2])));
for (const { code, message, pointer, severity } of report.issues.messages)
  if (severity === 0) console.error(`${code} ${pointer}: ${message}`);
const { numErrors, numWarnings } = report.issues;
console.log(`${process.argv[2]}: ${numErrors} errors, ${numWarnings} warnings`);
process.exit(numErrors ? 1 : 0);
