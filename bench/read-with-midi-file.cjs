// Reads a MIDI file with npm's midi-file and prints the processor seconds it took.
// Usage: node read-with-midi-file.cjs NODE_MODULES FILE.mid
const fs = require("fs");
const { parseMidi } = require(process.argv[2] + "/midi-file");
const bytes = fs.readFileSync(process.argv[3]);
const before = process.cpuUsage();
const messages = parseMidi(bytes).tracks.reduce((sum, track) => sum + track.length, 0);
const used = process.cpuUsage(before);
console.log(`midi-file: ${messages} messages in ${((used.user + used.system) / 1e6).toFixed(2)} s of processor time`);
