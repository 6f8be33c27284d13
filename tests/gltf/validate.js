// usage: node validate.js FILE.glb...      Fails on any error or warning of the Khronos glTF validator.
const fs = require('fs');
const validator = require('gltf-validator');
(async () => {
  let failed = false;
  for (const file of process.argv.slice(2)) {
    const report = await validator.validateBytes(new Uint8Array(fs.readFileSync(file)));
    console.log(`${file}: ${report.issues.numErrors} errors, ${report.issues.numWarnings} warnings`);
    for (const m of report.issues.messages) if (m.severity < 2) console.log(`  ${m.code} ${m.pointer}: ${m.message}`);
    failed = failed || report.issues.numErrors > 0 || report.issues.numWarnings > 0;
  }
  process.exit(failed ? 1 : 0);
})();
