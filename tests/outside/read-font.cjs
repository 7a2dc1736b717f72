// Reads a soundfont with the npm package soundfont2 and prints a line a preset: bank, program, name, the ranges of
// keys that sound, and a digest (FNV-1a, 32 bits) of the names on its keys. fluidr3.txt beside this file is what it
// printed for Debian's fluid-soundfont-gm 3.1-5.3.
//   node read-font.cjs NODE_MODULES FONT > fluidr3.txt
const fs = require('fs');
const { SoundFont2 } = require(process.argv[2] + '/soundfont2');
const font = new SoundFont2(fs.readFileSync(process.argv[3]));

const rangeOf = (zone, global, id) => {
  const own = zone.generators[id] || (global && global.generators[id]);
  return own && own.range ? [own.range.lo, own.range.hi] : [0, 127];
};
const covers = (range, value) => value >= range[0] && value <= range[1];

// What sounds on a key: the first sample found at velocity 100; whether any sounds at any velocity.
function soundOn(preset, key) {
  let any = false, first = null;
  for (const zone of preset.zones) {
    if (!zone.instrument || !covers(rangeOf(zone, preset.globalZone, 43), key)) continue;
    const velocities = rangeOf(zone, preset.globalZone, 44);
    for (const inner of zone.instrument.zones) {
      if (!inner.sample || !covers(rangeOf(inner, zone.instrument.globalZone, 43), key)) continue;
      const innerVelocities = rangeOf(inner, zone.instrument.globalZone, 44);
      if (Math.max(velocities[0], innerVelocities[0]) <= Math.min(velocities[1], innerVelocities[1])) any = true;
      if (!first && covers(velocities, 100) && covers(innerVelocities, 100))
        first = zone.instrument.header.name + '|' + inner.sample.header.name;
    }
  }
  return { any, first };
}

function digest(text) {
  let hash = 2166136261;
  for (const byte of Buffer.from(text)) hash = Math.imul(hash ^ byte, 16777619) >>> 0;
  return hash.toString(16).padStart(8, '0');
}

const lines = font.presets.map((preset) => {
  let names = '';
  const ranges = [];
  for (let key = 0; key < 128; ++key) {
    const { any, first } = soundOn(preset, key);
    if (first) names += key + ':' + first + '\n';
    if (!any) continue;
    const last = ranges[ranges.length - 1];
    if (last && last[1] === key - 1) last[1] = key;
    else ranges.push([key, key]);
  }
  const { bank, preset: program, name } = preset.header;
  return { bank, program, text: [bank, program, name, ranges.map((r) => r.join('-')).join(','), digest(names)].join('\t') };
});
lines.sort((a, b) => a.bank - b.bank || a.program - b.program);
for (const line of lines) console.log(line.text);
