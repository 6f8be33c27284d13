// usage: node tangents.js FILE.glb ...     Compares the tangents of each file with those that the mikktspace package makes.
const fs = require("fs");
const { generateTangents } = require("mikktspace");

function read(file) {
  const data = fs.readFileSync(file), length = data.readUInt32LE(12);
  const json = JSON.parse(data.subarray(20, 20 + length).toString());
  const bin = data.subarray(28 + length);
  const accessor = (index) => {
    const a = json.accessors[index], view = json.bufferViews[a.bufferView];
    const n = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 }[a.type], start = view.byteOffset || 0;
    const bytes = bin.buffer.slice(bin.byteOffset + start, bin.byteOffset + start + a.count * n * 4);
    return { n, values: a.componentType === 5125 ? new Uint32Array(bytes) : new Float32Array(bytes) };
  };
  const p = json.meshes[0].primitives, attributes = {};
  for (const name of ["POSITION", "NORMAL", "TEXCOORD_0", "TANGENT"]) attributes[name] = accessor(p[0].attributes[name]);
  const indices = p.flatMap((q) => Array.from(accessor(q.indices).values));
  const spread = ({ n, values }) => Float32Array.from(indices.flatMap((i) => Array.from(values.subarray(i * n, i * n + n))));
  return Object.fromEntries(Object.entries(attributes).map(([k, v]) => [k, spread(v)]));
}

let bad = 0;
for (const file of process.argv.slice(2)) {
  const m = read(file), wanted = generateTangents(m.POSITION, m.NORMAL, m.TEXCOORD_0);
  let far = 0, corners = 0;
  for (let i = 0; i < wanted.length; i += 4) {
    // Triangles without an area in UV leave the tangent open.
    const t = (i / 12) | 0, u = m.TEXCOORD_0.subarray(t * 6, t * 6 + 6);
    const area = (u[2] - u[0]) * (u[5] - u[1]) - (u[3] - u[1]) * (u[4] - u[0]);
    if (Math.abs(area) < 1e-12) continue;
    ++corners;
    let dot = 0;
    for (let k = 0; k < 3; ++k) dot += wanted[i + k] * m.TANGENT[i + k];
    // V grows downward in glTF and green points up: the sign turns.
    if (dot < 0.9995 || wanted[i + 3] !== -m.TANGENT[i + 3]) ++far;
  }
  console.log(`${file}: ${far} of ${corners} corners differ`);
  if (corners === 0 || far > corners * 0.005) bad = 1;
}
process.exit(bad);
