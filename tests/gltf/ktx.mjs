// usage: ktx.mjs KIND=FILE...      Reads KTX2 files with ktx-parse and checks what a loader relies on.
import { readFileSync } from 'node:fs';
import { read, write } from 'ktx-parse';

const vulkan = { 'bc1': 132, 'bc4': 139, 'bc5': 141, 'bc7': 146, 'astc-4x4': 158, 'astc-6x6': 166, 'astc-8x8': 172 };
const model = { 'bc1': 128, 'bc4': 131, 'bc5': 132, 'bc7': 134, 'astc-4x4': 162, 'astc-6x6': 162, 'astc-8x8': 162 };
const block = { 'bc1': [4, 8], 'bc4': [4, 8], 'bc5': [4, 16], 'bc7': [4, 16], 'astc-4x4': [4, 16], 'astc-6x6': [6, 16], 'astc-8x8': [8, 16] };
let bad = 0;
const expect = (what, there, wanted) => {
  if (there === wanted) return;
  console.error(`${what}: ${there} instead of ${wanted}`);
  ++bad;
};
for (const argument of process.argv.slice(2)) {
  const [kind, file] = argument.split('=');
  const [format, packed] = kind.split('+');
  const map = read(readFileSync(file));
  const [side, bytes] = block[format];
  expect(`${kind} format`, map.vkFormat, vulkan[format]);
  expect(`${kind} supercompression`, map.supercompressionScheme, packed ? 2 : 0);
  expect(`${kind} faces`, map.faceCount, 1);
  expect(`${kind} levels`, map.levels.length, Math.floor(Math.log2(Math.max(map.pixelWidth, map.pixelHeight))) + 1);
  map.levels.forEach((level, l) => {
    const w = Math.max(1, map.pixelWidth >> l), h = Math.max(1, map.pixelHeight >> l);
    expect(`${kind} level ${l}`, level.uncompressedByteLength, Math.ceil(w / side) * Math.ceil(h / side) * bytes);
    if (!packed) expect(`${kind} level ${l} data`, level.levelData.byteLength, level.uncompressedByteLength);
  });
  const descriptor = map.dataFormatDescriptor[0];
  expect(`${kind} color model`, descriptor.colorModel, model[format]);
  expect(`${kind} transfer`, descriptor.transferFunction, vulkan[format] % 2 === 0 || format === 'bc7' ? (format === 'bc4' || format === 'bc5' ? 1 : 2) : 1);
  expect(`${kind} block width`, descriptor.texelBlockDimension[0], side - 1);
  expect(`${kind} orientation`, map.keyValue.KTXorientation, 'rd');
  // Writing it again keeps every level.
  const again = read(write(map));
  again.levels.forEach((level, l) => expect(`${kind} level ${l} written again`, Buffer.compare(Buffer.from(level.levelData), Buffer.from(map.levels[l].levelData)), 0));
}
process.exit(bad ? 1 : 0);
