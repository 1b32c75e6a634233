// Yarn in relief, as wool: drawn by WebGL2 from the strands that the program gives (drawing/wool.py says in which form).
// All sizes, paths and fibre angles are data; how single fibres lie on the surface, and light, are picture.
// x runs along the yarn, y up, z to the eye; Z twist is a right-handed helix.

const ACROSS = [7, 4]; // vertices across the half of a strand that faces the eye; fewer of one that is thin in the picture
const THIN = 12; // pixels of radius
const SKY = 16; // directions round a strand for which the open sky is known
const LAYERS = 6; // of the fibre tile: combed, half, carded; each as plied and as washed
const TILE = { fibres: 46, long: 4, laid: 420, steps: 24 }; // fibres one beside another, length over height, and all, in pieces
const SHARP = [512, 1024]; // pixels of a tile along the fibres, half as many across: at first, and once there was time
const POINTS = [10, 6]; // of a loose fibre, and of one while the yarn moves
const MOST_LOOSE = 6000;
const [BEND_SEEN, LONGEST] = [0.8, 24]; // pixels that a straight piece may miss of a bend, and that it is long
const UNSEEN = 0.5; // the same of a piece twice as long, laid where the path hardly bends in the page, but to or from the eye
const DRAFT = 3; // times as much of a bend may be missed while the yarn moves
const CROWD = 12; // strands, from which on each is too thin for a rim of its own: only the outline of all has one
const BURIED = 0.35; // of its thickness to either side, within which the farther half of a crowd is seen through gaps alone
const COLUMN = 4; // pixels of the picture between which an outline is the same
const PIECE = 8; // samples that are sorted by depth as one

// What all programs are told, at the place that is theirs unasked: asking waits for all that was begun.
const TOLD = `layout(std140) uniform Told {
  vec4 uSize;   // width, height, pixels per mm, and how wet
  vec4 uGround;
};`;

// What changes so little along a strand that all of a triangle has it of its last corner: working it out between corners
// is a tenth of what a picture takes.
const SAME = (way) => `flat ${way} vec4 vColour; // light that it gives back, and how faded
flat ${way} vec4 vTold;  // layer and size of the tile, bloom, and how well fibres are seen
flat ${way} vec4 vLean;  // as it was handed over
flat ${way} vec4 vGloss; // how unlike fibres are, how narrow their shine, how much of it, and what an edge scatters`;

// What is worked out between the corners: of the axes of a place only how they lie to the light.
const BETWEEN = (way) => `${way} vec2 vTile;
${way} vec2 vOut;    // its own number, and how far out
${way} vec4 vNormal; // and the open sky
${way} vec4 vLit;    // along the strand and around it towards the lamp, and the same towards where its shine is seen`;

const LIGHTS = `const vec3 LAMP = normalize(vec3(-0.38, 0.62, 0.70));
const vec3 HALF = normalize(LAMP + vec3(0.0, 0.0, 1.0));`;

// A vertex as it is handed over: 44 bytes, of which the last five fours are shares of 127 or 255.
const BYTES = 44;
const SEEN = `#version 300 es
precision highp float;
layout(location = 0) in vec3 aPlace;    // pixels from the left and from the middle, mm towards the eye
layout(location = 1) in vec2 aTile;
layout(location = 2) in float aOwn;     // of a rim pixels from the strand; of a loose fibre its cover
layout(location = 3) in vec4 aNormal;   // and the open sky
layout(location = 4) in vec4 aAround;   // the direction in which the angle round the strand grows; of a rim how far out
layout(location = 5) in vec4 aColour;   // and how faded
layout(location = 6) in vec4 aLook;     // bloom, carded, lustre, fibre in 1/16 px
layout(location = 7) in vec4 aMore;     // surface fibre angle as cosine and sine; of a rim its fuzz as the second; which size of the tile / 8; whether it is a wrap
${TOLD}
${LIGHTS}
${BETWEEN("out")}
${SAME("out")}
void main() {
  float bloom = aLook.x * 1.2, carded = aLook.y, lustre = aLook.z, wet = uSize.w;
  float fine = smoothstep(0.3, 1.1, aLook.w * 15.94); // fibres too fine for the picture make one surface
  vTile = aTile; vOut = vec2(aOwn, aAround.a); vNormal = aNormal;
  vec3 around = aAround.xyz, along = cross(aNormal.xyz, around);
  vLit = vec4(dot(along, LAMP), dot(around, LAMP), dot(along, HALF), dot(around, HALF));
  vColour = vec4(aColour.rgb * aColour.rgb * (1.0 - 0.42 * wet), aColour.a);
  vTold = vec4(floor(carded * 2.0 + 0.5) * 2.0, aMore.z * 8.0, bloom, fine);
  vLean = aMore;
  vGloss = vec4(mix(0.16, 0.42, carded) * mix(0.4, 1.0, fine), mix(20.0, 86.0, lustre), lustre + 0.5 * wet, 0.08 + 0.1 * carded + 0.24 * bloom);
  gl_Position = vec4(aPlace.xy / uSize.xy * 2.0 - vec2(1.0, 0.0), -aPlace.z * 0.01, 1.0);
}`;

// What lights a picture; a part in hand makes the rest fade.
const light = (fades) => `#version 300 es
precision highp float; precision highp sampler2DArray;
uniform sampler2DArray uTile;
${TOLD}
${BETWEEN("in")}
${SAME("in")}
out vec4 colour;
${LIGHTS}
vec4 shown(vec3 linear, float alpha) {
  vec3 c = sqrt(min(linear, 1.0));
  ${fades ? "c = mix(c, mix(uGround.rgb, vec3(dot(c, vec3(0.3, 0.6, 0.1))), 0.25), vColour.a * 0.75);" : ""}
  return vec4(c, 1.0) * alpha;
}
`;

const STRIP = `// of fibre wound beside itself
  float ridge = 6.2831853 * (vTile.y * 3.0 + 0.4 * f.b) + 1.3 * sin(vTile.x * 5.0);
  leant += sin(ridge) * 0.4 * vLean.w;
  sky *= 1.0 - 0.3 * vLean.w * (0.5 - 0.5 * cos(ridge));`;

// Strands; what only wraps and parts in hand want is left out where there are none, which is a tenth of all the work.
const tube = (all) => `${light(all)}
void main() {
  float bloom = vTold.z, fine = vTold.w;
  vec4 f = textureLod(uTile, vec3(vTile, vTold.x), vTold.y);
  if (bloom > 0.02) f = mix(f, textureLod(uTile, vec3(vTile + vec2(0.31, 0.17), vTold.x + 1.0), vTold.y), min(bloom * 1.6, 1.0));
  vec3 n = vNormal.xyz * inversesqrt(dot(vNormal.xyz, vNormal.xyz));
  float off = (f.a - 0.5) * 1.6 * mix(0.5, 1.0, fine), part = 1.0 - 0.5 * off * off;
  float c_ = vLean.x * part - vLean.y * off, s_ = vLean.y * part + vLean.x * off;
  vec2 fibre = vLit.xz * c_ + vLit.yw * s_, across = vLit.yw * c_ - vLit.xz * s_; // towards the lamp, and towards its shine
  float leant = (f.g - 0.5) * fine * 1.7, sky = vNormal.a; // a fibre's own surface, to its side
  ${all ? STRIP : ""}
  vec2 own = (vec2(dot(n, LAMP), dot(n, HALF)) + across * leant) * inversesqrt(1.0 + leant * leant);
  float dive = mix(1.0, 0.2 + f.r, mix(0.45, 1.0, fine)), edge = 1.0 - n.z, open = sky * dive;
  vec3 albedo = vColour.rgb * (1.0 + (f.b - 0.5) * vGloss.x);
  float diffuse = (0.68 * max(own.x, 0.0) + 0.32) * (0.5 + 0.5 * sqrt(max(1.0 - fibre.x * fibre.x, 0.0)));
  float facing = clamp(own.y * 1.4 - 0.3, 0.0, 1.0);
  float shine = exp2(-vGloss.y * fibre.y * fibre.y) * facing * facing * vGloss.z * mix(1.0, 0.25 + 1.9 * f.b * f.b, fine) * sky;
  float pale = 0.2 * min(bloom, 1.0), kept = 1.0 - pale; // a bloomed surface scatters, and its grooves grow pale
  shine *= kept;
  float strewn = kept * vGloss.w * edge * edge * sky + pale * (0.42 + 0.42 * sky);
  vec3 multi = (kept * 1.55 * diffuse * open) / (1.0 - (0.6 - 0.6 * open) * albedo); // light goes to and fro in a groove
  colour = shown(albedo * (multi + (strewn + shine)) + 0.22 * shine, 1.0);
}`;

// Thin strands deep inside of many: what is seen of them through gaps lies in shade, and shows no fibres.
const DEEP = `${light(false)}
void main() {
  float lit = 0.68 * max(dot(vNormal.xyz, LAMP), 0.0) + 0.32;
  colour = shown(vColour.rgb * (1.5 * lit * vNormal.a), 1.0);
}`;

const FIN = `${light(true)}
void main() {
  float ramp = clamp(1.1 - vOut.x, 0.0, 1.0), left = 1.0 - vOut.y, thin = left * left;
  float stroke = textureLod(uTile, vec3(vTile, vTold.x), vTold.y).r;
  float fuzz = vLean.y * thin * smoothstep(0.3, 0.9, stroke + 0.3 * thin);
  colour = shown(vColour.rgb * (0.36 + 0.5 * vNormal.a), max(ramp, fuzz) * (1.0 - 0.8 * vColour.a));
}`;

const LOOSE = `${light(true)}
void main() {
  float along = vLit.y, lit = 0.35 + 0.65 * max(vNormal.z * 0.5 + 0.5 * vNormal.y, 0.0);
  vec3 c = vColour.rgb * (0.3 + 0.7 * vNormal.a) * lit * (0.55 + 0.45 * sqrt(max(1.0 - along * along, 0.0))) * 1.25;
  colour = shown(c, vOut.x * (1.0 - 0.85 * vColour.a));
}`;

// A tile of fibres that rise and dive under each other, repeating both ways: how far up, place across the fibre, a
// number of its own, and how far it lies off the mean angle.
const BAKE = [
  `#version 300 es
precision highp float;
layout(location = 0) in vec4 aAt;    // in the tile, how far up, and which side of the fibre
layout(location = 1) in vec2 aFibre; // a number of its own, and off the mean angle
out vec4 vFibre;
void main() {
  vFibre = vec4(aAt.zw, aFibre);
  gl_Position = vec4(aAt.xy * 2.0 - 1.0, 0.5 - aAt.z, 1.0);
}`,
  `#version 300 es
precision highp float; in vec4 vFibre; out vec4 colour;
void main() {
  float round_ = sqrt(max(1.0 - vFibre.y * vFibre.y, 0.0));
  gl_FragDepth = 0.5 - (vFibre.x + 0.05 * round_) * 0.4;
  colour = vec4(clamp(vFibre.x, 0.0, 1.0) * (0.62 + 0.38 * round_), vFibre.y * 0.5 + 0.5, vFibre.z, vFibre.w);
}`,
];
const SPREADS = [[0.085, 0.13], [0.14, 0.2], [0.2, 0.26]]; // radians, as plied and as washed, from combed to carded

let device = null; // the one context that all pictures share; false where there is none

/** Return the context with its programs, or null where yarn cannot be drawn in relief here. */
function ready() {
  if (device !== null) return device || null;
  const canvas = new OffscreenCanvas(16, 16);
  const gl = canvas.getContext("webgl2", { alpha: true, antialias: false, premultipliedAlpha: true, preserveDrawingBuffer: true });
  if (!gl) return (device = false) || null;
  canvas.addEventListener("webglcontextlost", (event) => {
    event.preventDefault();
    device = false;
    document.dispatchEvent(new CustomEvent("wool:lost"));
  });
  const programs = {};
  for (const [name, sources] of Object.entries({ bake: BAKE, tube: [SEEN, tube(false)], all: [SEEN, tube(true)], deep: [SEEN, DEEP], fin: [SEEN, FIN], loose: [SEEN, LOOSE] })) programs[name] = program(gl, sources);
  device = { canvas, gl, programs, tiles: SHARP.map((wide) => tile(gl, wide)), mesh: meshOf(gl), whole: false };
  told(gl);
  gl.bindVertexArray(device.mesh.array);
  gl.bufferData(gl.ARRAY_BUFFER, BYTES, gl.STATIC_DRAW);
  const once = [3, 3, 3, 3];
  gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, new Uint32Array(3 * once.length), gl.STATIC_DRAW);
  for (const all of [true, false]) lit(device.tiles[0], once, all); // nothing that is seen: what lights a picture is made ready while its yarn is being worked out
  return device;
}

/** Begin to make a program; nothing here waits for it. */
function program(gl, sources) {
  const made = gl.createProgram();
  [gl.VERTEX_SHADER, gl.FRAGMENT_SHADER].forEach((kind, place) => {
    const shader = gl.createShader(kind);
    gl.shaderSource(shader, sources[place]);
    gl.compileShader(shader);
    gl.attachShader(made, shader);
  });
  gl.linkProgram(made);
  return made;
}

/** See to it that the programs came about, the first time that one is wanted. */
function whole() {
  const { gl, programs } = device;
  for (const made of device.whole ? [] : Object.values(programs)) {
    if (gl.getProgramParameter(made, gl.LINK_STATUS) || gl.isContextLost()) continue;
    throw new Error(gl.getAttachedShaders(made).map((shader) => gl.getShaderInfoLog(shader)).join("") || gl.getProgramInfoLog(made));
  }
  device.whole = true;
}

/** Make the place where the programs are told of the picture. */
function told(gl) {
  gl.bindBufferBase(gl.UNIFORM_BUFFER, 0, gl.createBuffer());
  gl.bufferData(gl.UNIFORM_BUFFER, 32, gl.DYNAMIC_DRAW);
}

function tile(gl, wide) {
  const [high, texture] = [wide / 2, gl.createTexture()];
  gl.bindTexture(gl.TEXTURE_2D_ARRAY, texture);
  gl.texStorage3D(gl.TEXTURE_2D_ARRAY, Math.log2(high) - 1, gl.RGBA8, wide, high, LAYERS);
  gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_WRAP_S, gl.REPEAT);
  gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_WRAP_T, gl.REPEAT);
  return { texture, wide, high, baked: new Set() };
}

/** Return the fibres of a tile as vertices of six numbers, two to each place along a fibre; once more over every edge. */
function fibresOf(layer) {
  const chance = chances(31);
  const [spread, crimp] = [SPREADS[layer >> 1][layer & 1], 0.4 * SPREADS[layer >> 1][layer & 1]];
  const strip = 12 * (TILE.steps + 1);
  const found = new Float32Array(6 * TILE.laid * strip);
  const own = new Float32Array(strip);
  let count = 0;
  let off = 0;
  for (let fibre = 0; fibre < TILE.laid; fibre += 1) {
    const [u0, v0, long, number] = [chance(), chance(), 0.45 + 0.5 * chance(), chance()];
    off = fibre % 2 ? -off : (chance() + chance() + chance() - 1.5) * 1.6 * spread; // as many to one side as to the other
    const [waves, begun, wave] = [1 + Math.floor(3 * chance()), 2 * Math.PI * chance(), crimp * (0.4 + chance())];
    const [half, rise, dives] = [(0.5 / TILE.fibres) * (0.9 + 0.5 * chance()), 0.6 * chance(), 1 + 2 * chance()];
    let [low, high] = [v0, v0];
    for (let step = 0, i = 0; step <= TILE.steps; step += 1) {
      const t = step / TILE.steps;
      const turn = 2 * Math.PI * waves * t + begun;
      const v = v0 + TILE.long * long * ((t - 0.5) * Math.tan(off) + (wave * Math.sin(turn)) / (2 * Math.PI * waves));
      low = Math.min(low, v - half);
      high = Math.max(high, v + half);
      for (const side of [-1, 1]) {
        own[i++] = u0 + (t - 0.5) * long;
        own[i++] = v + side * half;
        own[i++] = 0.25 + rise * Math.sin(Math.PI * t) + 0.16 * Math.sin(2 * Math.PI * t * dives + begun);
        own[i++] = side;
        own[i++] = number;
        own[i++] = Math.min(Math.max((off + wave * Math.cos(turn)) / 1.6 + 0.5, 0), 1);
      }
    }
    for (const right of [0, u0 < 0.5 ? 1 : -1]) {
      for (const above of [-1, 0, 1]) {
        if (u0 + right + long / 2 < 0 || u0 + right - long / 2 > 1 || high + above < 0 || low + above > 1) continue;
        found.set(own, count);
        for (let i = count; i < count + strip; i += 6) {
          found[i] += right;
          found[i + 1] += above;
        }
        count += strip;
      }
    }
  }
  return found.subarray(0, count);
}

/** Bake those layers of a tile that are wanted and not there yet. */
function bake({ texture, wide, high, baked }, layers) {
  const { gl, programs } = device;
  const missing = layers.filter((layer) => !baked.has(layer));
  if (!missing.length) return;
  const [array, vertices, frame, depth] = [gl.createVertexArray(), gl.createBuffer(), gl.createFramebuffer(), gl.createRenderbuffer()];
  gl.bindRenderbuffer(gl.RENDERBUFFER, depth);
  gl.renderbufferStorage(gl.RENDERBUFFER, gl.DEPTH_COMPONENT24, wide, high);
  gl.bindFramebuffer(gl.FRAMEBUFFER, frame);
  gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.DEPTH_ATTACHMENT, gl.RENDERBUFFER, depth);
  gl.useProgram(programs.bake);
  gl.bindVertexArray(array);
  gl.bindBuffer(gl.ARRAY_BUFFER, vertices);
  [[4, 0], [2, 16]].forEach(([count, from], place) => {
    gl.enableVertexAttribArray(place);
    gl.vertexAttribPointer(place, count, gl.FLOAT, false, 24, from);
  });
  gl.viewport(0, 0, wide, high);
  gl.disable(gl.BLEND);
  gl.enable(gl.DEPTH_TEST);
  gl.depthMask(true);
  for (const layer of missing) {
    const fibres = fibresOf(layer);
    gl.bufferData(gl.ARRAY_BUFFER, fibres, gl.STREAM_DRAW);
    gl.framebufferTextureLayer(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, texture, 0, layer);
    gl.clearColor(0.1, 0.5, 0.5, 0.5);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    const strip = 2 * (TILE.steps + 1);
    for (let from = 0; from < fibres.length / 6; from += strip) gl.drawArrays(gl.TRIANGLE_STRIP, from, strip);
    baked.add(layer);
  }
  gl.bindFramebuffer(gl.FRAMEBUFFER, null);
  gl.bindVertexArray(null);
  gl.deleteFramebuffer(frame);
  gl.deleteRenderbuffer(depth);
  gl.deleteVertexArray(array);
  gl.deleteBuffer(vertices);
  gl.bindTexture(gl.TEXTURE_2D_ARRAY, texture);
  gl.generateMipmap(gl.TEXTURE_2D_ARRAY);
}

/** Return which layers of the tile a yarn is drawn by. */
const layersOf = ({ kinds }, bloom) => kinds.flatMap(({ carded, grown }) => (bloom && grown > 1 ? [0, 1] : [0]).map((washed) => 2 * Math.round(2 * carded) + washed));

/** Make ready, while nothing else happens, all that a yarn will be drawn by, as near and as washed as can be. */
function foreseen(yarn) {
  if (ready()) bake(device.tiles[1], layersOf(yarn, 1));
}

/** Return the tile to draw by: the sharp one where it has all that is wanted. */
function tileFor(yarn, bloom) {
  const layers = layersOf(yarn, bloom);
  const [soon, sharp] = device.tiles;
  if (layers.every((layer) => sharp.baked.has(layer))) return sharp;
  bake(soon, layers);
  return soon;
}

// Reading what the program gives

/** Return the strands in a piece of data, each plane summed up again. */
function strandsIn(buffer) {
  const bytes = new Uint8Array(buffer);
  const long = new DataView(buffer).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + long)));
  let at = 4 + long;
  for (const strand of head.strands) {
    const { samples, colours } = strand;
    const planes = [];
    for (let plane = 0; plane < (colours.length > 1 ? 6 : 5); plane += 1) {
      const values = new Float32Array(samples);
      for (let i = 0, sum = 0; i < samples; i += 1) {
        const folded = bytes[at + i] | (bytes[at + samples + i] << 8);
        sum += folded & 1 ? -((folded + 1) >> 1) : folded >> 1;
        values[i] = sum;
      }
      at += 2 * samples;
      planes.push(values);
    }
    [strand.x, strand.y, strand.z, strand.r] = planes.slice(0, 4).map((plane) => plane.map((value) => value * head.unit));
    strand.lean = planes[4].map((value) => value * head.angle);
    strand.shade = planes[5]?.map((value) => value * head.shades);
    strand.look = head.kinds[strand.kind];
  }
  return head;
}

const cross = (a, b) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const dot = (a, b) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const unit = (a) => {
  const long = Math.sqrt(dot(a, a)) || 1;
  return [a[0] / long, a[1] / long, a[2] / long];
};
const put = (data, at, a, b, c, d) => {
  data[4 * at] = a; data[4 * at + 1] = b; data[4 * at + 2] = c; data[4 * at + 3] = d;
};
const rgb = (hex) => [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16) / 255);

// Height of the tile on a strand, mm: fibres lie in bundles of a few, which is what the eye sees.
const tileHigh = (look) => (look.micron / 1000) * TILE.fibres * 1.7;

/** Work out what follows from the paths: tangents, frames that turn as little as can be, fibres laid along them. */
function laidOut(yarn) {
  const total = yarn.strands.reduce((sum, each) => sum + each.samples, 0);
  const made = () => new Float32Array(4 * total);
  const out = { path: made(), frame: made(), colour: made(), along: made() };
  let first = 0;
  yarn.strands.forEach((strand, number) => {
    const { x, y, z, r, lean, shade, samples, look } = strand;
    Object.assign(strand, { first, number, sky: strand.like ? -1 : first });
    const tangent = (i) => {
      const a = Math.max(i - 1, 0);
      const b = Math.min(i + 1, samples - 1);
      return unit([x[b] - x[a], y[b] - y[a], z[b] - z[a]]);
    };
    const high = tileHigh(look);
    const middle = samples >> 1;
    strand.round = Math.max(1, Math.round((2 * Math.PI * r[middle] * Math.cos(lean[middle])) / high));
    const palette = strand.colours.map(rgb);
    let t = tangent(0);
    let n = unit([-t[2] * t[0], -t[2] * t[1], 1 - t[2] * t[2]]);
    let laid = 0;
    let gone = 0;
    let through = 0;
    for (let i = 0; i < samples; i += 1) {
      const now = tangent(i);
      if (i) {
        const step = [x[i] - x[i - 1], y[i] - y[i - 1], z[i] - z[i - 1]];
        const long = Math.sqrt(dot(step, step)) || 1e-6;
        const back = step.map((each) => each / long); // frames by double reflection
        const [nl, tl] = [n, t].map((v) => v.map((each, k) => each - 2 * dot(back, v) * back[k]));
        const v2 = [now[0] - tl[0], now[1] - tl[1], now[2] - tl[2]];
        const c2 = dot(v2, v2);
        n = unit(c2 > 1e-12 ? nl.map((each, k) => each - ((2 * dot(v2, nl)) / c2) * v2[k]) : nl);
        t = now;
        const angle = Math.max(-1.5, Math.min(1.5, lean[i]));
        laid += (Math.tan(angle) / Math.max(r[i], 1e-4)) * long;
        gone += long / Math.cos(angle) / (high * TILE.long);
        through += long;
      }
      const k = first + i;
      const place = shade ? ((shade[i] % palette.length) + palette.length) % palette.length : 0;
      const from = palette[Math.floor(place) % palette.length];
      const to = palette[(Math.floor(place) + 1) % palette.length];
      put(out.path, k, x[i], y[i], z[i], r[i]);
      put(out.frame, k, n[0], n[1], n[2], laid);
      const [red, green, blue] = from.map((each, c) => 255 * (each + (to[c] - each) * (place % 1)));
      put(out.colour, k, red, green, blue, gone);
      put(out.along, k, t[0], t[1], t[2], number);
    }
    strand.step = through / (samples - 1);
    strand.bent = 0;
    for (let i = 1; i < samples - 1; i += 3) {
      const missed = [x, y, z].map((v) => v[i] - (v[i - 1] + v[i + 1]) / 2);
      strand.bent = Math.max(strand.bent, Math.sqrt(dot(missed, missed)));
    }
    first += samples;
  });
  return out;
}

/** Sort places by the cube of space they lie in: those of a cube stand together, from one start to the next. */
function cubesOf(path, wide) {
  const count = path.length / 4;
  const low = [Infinity, Infinity, Infinity];
  const most = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < count; i += 1) {
    for (let axis = 0; axis < 3; axis += 1) {
      low[axis] = Math.min(low[axis], path[4 * i + axis]);
      most[axis] = Math.max(most[axis], path[4 * i + axis]);
    }
  }
  const many = low.map((each, axis) => Math.floor((most[axis] - each) / wide) + 3); // an empty one before and after all
  const own = new Uint32Array(count);
  const starts = new Uint32Array(many[0] * many[1] * many[2] + 1);
  for (let i = 0; i < count; i += 1) {
    let at = 0;
    for (let axis = 0; axis < 3; axis += 1) at = at * many[axis] + Math.floor((path[4 * i + axis] - low[axis]) / wide) + 1;
    own[i] = at;
    starts[at + 1] += 1;
  }
  for (let at = 1; at < starts.length; at += 1) starts[at] += starts[at - 1];
  const places = new Uint32Array(count);
  const next = starts.slice();
  for (let i = 0; i < count; i += 1) places[next[own[i]]++] = i;
  return { own, starts, places, many };
}

/** Return how much of the sky every place of every strand sees, by direction round it: 255 for all of it. */
function openSky(yarn, { path, along, frame }) {
  const lit = yarn.strands.filter((strand) => strand.sky === strand.first);
  const sky = new Uint8Array(lit.reduce((sum, each) => sum + each.samples, 0) * SKY).fill(255);
  const thick = yarn.strands.reduce((most, { r }) => Math.max(most, r[r.length >> 1]), 0);
  const cell = 3.2 * thick; // what lies farther off hides no sky worth telling
  const { own, starts, places, many: [, high, deep] } = cubesOf(path, cell);
  const steps = Float32Array.from(yarn.strands, ({ step }) => step);
  const [dn, db, radii] = [0, 1, 2].map(() => new Float32Array(path.length / 4));
  const cosines = Float32Array.from({ length: SKY }, (_, a) => Math.cos((2 * Math.PI * a) / SKY));
  const sines = Float32Array.from({ length: SKY }, (_, a) => Math.sin((2 * Math.PI * a) / SKY));
  let from = 0;
  for (const strand of lit) {
    const { first, samples, step, number } = strand;
    strand.sky = from;
    for (let i = 0; i < samples; i += 2) {
      const q = 4 * (first + i);
      const [tx, ty, tz] = [along[q], along[q + 1], along[q + 2]];
      const [nx, ny, nz] = [frame[q], frame[q + 1], frame[q + 2]];
      const [bx, by, bz] = [ty * nz - tz * ny, tz * nx - tx * nz, tx * ny - ty * nx];
      const r = path[q + 3];
      let many = 0;
      for (let a = -1; a < 2; a += 1) for (let b = -1; b < 2; b += 1) {
        const row = own[first + i] + (a * high + b) * deep; // of three cubes, one behind another
        for (let m = starts[row - 1]; m < starts[row + 2]; m += 1) {
          const other = places[m];
          const o = 4 * other;
          const ox = path[o] - path[q];
          const oy = path[o + 1] - path[q + 1];
          const oz = path[o + 2] - path[q + 2];
          const off = Math.abs(ox * tx + oy * ty + oz * tz);
          const its = along[o + 3];
          if (off > 0.5 * steps[its]) continue;
          const leans = Math.abs(along[o] * tx + along[o + 1] * ty + along[o + 2] * tz);
          if (off > 0.5 * steps[its] * Math.max(leans, 0.3)) continue; // crosses elsewhere
          if (its === number && Math.abs(other - first - i) * step < 3 * r) continue;
          dn[many] = ox * nx + oy * ny + oz * nz;
          db[many] = ox * bx + oy * by + oz * bz;
          radii[many] = path[o + 3];
          if (dn[many] * dn[many] + db[many] * db[many] < cell * cell) many += 1;
        }
      }
      for (let a = 0; a < SKY; a += 1) {
        const cn = cosines[a];
        const sn = sines[a];
        let open = 1;
        for (let m = 0; m < many; m += 1) {
          const pn = dn[m] - r * cn;
          const pb = db[m] - r * sn;
          const away = Math.max(Math.sqrt(pn * pn + pb * pb), 1e-6);
          const cm = (pn * cn + pb * sn) / away; // cosine and sine of its middle, and of half of what it hides
          const sm = (pb * cn - pn * sn) / away;
          const sh = Math.min(1, radii[m] / away);
          const ch = Math.sqrt(1 - sh * sh);
          const falls = cm * ch - sm * sh < 0; // past the horizon on the one side, on the other
          const rises = cm * ch + sm * sh < 0;
          if ((falls && sm < 0) || (rises && sm > 0)) continue;
          open -= 0.5 * ((falls ? 1 : sm * ch + cm * sh) - (rises ? -1 : sm * ch - cm * sh));
        }
        const value = Math.round(255 * Math.max(open, 0.06));
        sky[(from + i) * SKY + a] = value;
        if (i + 1 < samples) sky[(from + i + 1) * SKY + a] = value;
      }
    }
    from += samples;
  }
  for (const strand of yarn.strands) if (strand.like) strand.sky = strand.like.sky;
  return sky;
}

/** A chain of numbers that is the same every time. */
function chances(seed) {
  let state = seed >>> 0 || 1;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

const FULL_BLOOM = 0.22; // growth in thickness of a strand that is as fuzzy as can be
const WAYS = [16, 8, 21]; // the most of each way to a mm: lying on it, standing off with a free end, in loops

/** Return the loose fibres of all strands, each with a rank: it shows where the strand is fuzzier than that. */
function looseFibres(yarn) {
  const room = yarn.strands.map((each) => each.samples * each.step);
  const all = room.reduce((sum, each) => sum + each, 0) * WAYS.reduce((sum, each) => sum + each, 0);
  const share = Math.min(1, MOST_LOOSE / all);
  const fibres = [];
  for (const strand of yarn.strands) {
    const chance = chances(977 * strand.number + 13);
    const { samples, step, look, r } = strand;
    const thick = r[samples >> 1];
    WAYS.forEach((most, kind) => {
      const count = Math.round(room[strand.number] * most * share);
      for (let each = 0; each < count; each += 1) {
        const long = [0.7 + 1.6 * chance(), 0.5 + 1.4 * chance(), 0.5 + 1.1 * chance() * (1 + look.looped)][kind];
        const longer = Math.min(long * (0.6 + 0.8 * Math.min(thick, 1.2)), (samples - 2) * step);
        const high = [0.02 + 0.03 * chance(), 0.16 + 0.5 * chance() ** 2, 0.12 + 0.34 * chance() ** 2 + 0.35 * look.looped * look.hairs][kind];
        const ahead = kind === 1 && chance() < 0.5 ? -1 : 1;
        const at = 1 + chance() * (samples - 3);
        fibres.push({ strand, kind, at, around: 6.2831853 * chance(), long: (ahead * longer) / step, high, seed: chance(), rank: (chance() * most) / share });
      }
    });
  }
  const turned = chances(4711);
  for (let i = fibres.length - 1; i > 0; i -= 1) { // shuffled, so that the first of them are some of every strand
    const other = Math.floor(turned() * (i + 1));
    [fibres[i], fibres[other]] = [fibres[other], fibres[i]];
  }
  return fibres;
}

const between = (a, b, share) => a.map((each, i) => each + (b[i] - each) * share);

/** How many loose fibres of each way there are to a mm of such a strand, as much as it has bloomed. */
function fuzziness(look, view) {
  const plied = between([5, 0.25, 0.5], [9, 1.5, 4], look.carded);
  const washed = between([9, 1.8, 5], [14, 4, 14], look.carded);
  const stands = [2, 4 - 3.5 * look.looped, 0.6 + 6.4 * look.looped];
  const share = Math.min(1, (Math.max(0, look.grown - 1) / FULL_BLOOM) * view.bloom);
  return between(plied, washed, share).map((each, way) => (each + look.hairs * stands[way]) * (1 - 0.55 * view.wet));
}

/** Return a knit row as often as it stands above itself; what the middle one sees of the sky, all do. */
function aboveEachOther(yarn) {
  const { apart, count } = yarn.rows;
  const middle = count >> 1;
  const rows = Array.from({ length: count }, (_, row) => yarn.strands.map((strand) => ({ ...strand, y: strand.y.map((y) => y + (row - (count - 1) / 2) * apart) })));
  rows.forEach((row, place) => {
    if (place !== middle) row.forEach((strand, number) => (strand.like = rows[middle][number]));
  });
  return { ...yarn, strands: rows.flat() };
}

/** Work out all that stays as the yarn is turned, drawn near and washed. */
function laid(given) {
  const yarn = given.rows ? aboveEachOther(given) : given;
  if (ready()) tileFor(yarn, 0); // done by another process meanwhile
  const known = laidOut(yarn);
  return { yarn, ...known, sky: openSky(yarn, known), loose: looseFibres(yarn) };
}

/** Return where vertices and their triangles are put for the shaders. */
function meshOf(gl) {
  const [array, vertices, indices] = [gl.createVertexArray(), gl.createBuffer(), gl.createBuffer()];
  gl.bindVertexArray(array);
  gl.bindBuffer(gl.ARRAY_BUFFER, vertices);
  [[3, 0], [2, 12], [1, 20]].forEach(([count, from], place) => {
    gl.enableVertexAttribArray(place);
    gl.vertexAttribPointer(place, count, gl.FLOAT, false, BYTES, from);
  });
  [gl.BYTE, gl.BYTE, gl.UNSIGNED_BYTE, gl.UNSIGNED_BYTE, gl.BYTE].forEach((type, place) => {
    gl.enableVertexAttribArray(3 + place);
    gl.vertexAttribPointer(3 + place, 4, type, true, BYTES, 24 + 4 * place);
  });
  gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, indices);
  gl.bindVertexArray(null);
  return { array, vertices, indices, room: new Mesh(1 << 16) };
}

/** Vertices and triangles on their way to the shaders. */
class Mesh {
  constructor(most) {
    this.bytes = new ArrayBuffer(most * BYTES);
    [this.floats, this.fours] = [new Float32Array(this.bytes), new Uint32Array(this.bytes)];
    this.most = most;
    this.count = 0;
  }

  /** Make room for so many more. */
  grown(more) {
    if (this.count + more <= this.most) return this;
    const wider = new Mesh(Math.max(2 * this.most, this.count + more));
    wider.floats.set(this.floats.subarray(0, (this.count * BYTES) / 4));
    wider.count = this.count;
    return wider;
  }

  put(x, y, z, u, v, own, normal, around, colour, look, more) {
    const f = (this.count * BYTES) / 4;
    const { floats, fours } = this;
    floats[f] = x; floats[f + 1] = y; floats[f + 2] = z; floats[f + 3] = u; floats[f + 4] = v; floats[f + 5] = own;
    fours[f + 6] = normal; fours[f + 7] = around; fours[f + 8] = colour; fours[f + 9] = look; fours[f + 10] = more;
    return this.count++;
  }
}

const four = (a, b, c, d) => (a & 255) | ((b & 255) << 8) | ((c & 255) << 16) | (d << 24); // bytes, of numbers of either sign
const shares = (x, y, z, last) => four(127 * x, 127 * y, 127 * z, last);
const share = (value) => 255 * Math.min(Math.max(value, 0), 1) + 0.5;

const within = (part, path) => `${part}.`.startsWith(`${path}.`);

/** Return from which to which sample of a strand lies in the picture; none where they are the same. */
function span({ x, y, samples, r }, view) {
  const room = 4 * r[0] + 0.5;
  const low = view.left / view.length - room;
  const high = (view.left + view.width / view.scale) / view.length + room;
  let from = 0;
  let to = samples - 1;
  const up = view.height / 2 / view.scale + room;
  if (view.flat && (y[0] > 1.2 * up + view.flat || y[0] < -1.2 * up - view.flat)) return [0, 0];
  while (from < to && Math.max(x[from], x[from + 1]) < low) from += 1;
  while (to > from && Math.min(x[to], x[to - 1]) > high) to -= 1;
  return [from, to];
}

/** Return every how many-th sample is enough for a path that bends so much. */
function skippable({ bent, step }, scale, draft) {
  const few = Math.sqrt((BEND_SEEN * (draft ? DRAFT : 1)) / Math.max(bent * scale, 1e-9)); // what a chord misses grows with its square
  return Math.max(1, Math.floor(Math.min(2 * few, LONGEST / (step * scale))));
}

/** How much thicker strands are than as plied. */
const grownOf = ({ grown }, { bloom, thick }) => (1 + (grown - 1) * bloom) * thick;

/** Return how far a place in the picture lies within the outline of all strands, pixels. */
function outlineOf({ strands }, path, view) {
  const { width, scale, left, length, turned } = view;
  const [cos, sin] = [Math.cos(turned) * scale, Math.sin(turned) * scale];
  const last = Math.ceil(width / COLUMN) - 1;
  const columnOf = (x) => Math.min(Math.max(Math.floor(x / COLUMN), 0), last);
  const [top, low] = [new Float32Array(last + 1).fill(-Infinity), new Float32Array(last + 1).fill(Infinity)];
  for (const { first, samples, look } of strands) {
    const grown = grownOf(look, view) * scale;
    for (let i = 0, before; i < samples; i += 1) {
      const q = 4 * (first + i);
      const column = columnOf((path[q] * length - left) * scale);
      const [y, r] = [cos * path[q + 1] - sin * path[q + 2], path[q + 3] * grown];
      for (let at = Math.min(before ?? column, column); at <= Math.max(before ?? column, column); at += 1) {
        top[at] = Math.max(top[at], y + r);
        low[at] = Math.min(low[at], y - r);
      }
      before = column;
    }
  }
  return (x, y) => Math.min(top[columnOf(x)] - y, y - low[columnOf(x)]);
}

/** Turn everything to the eye: strands as half tubes, a rim on each side of them, and the fibres that stand off. */
function meshed(drawn, view, tall) {
  const { yarn, path, frame, along, colour, sky, loose } = drawn;
  const { scale, left, length, bloom, thick, wet, held } = view;
  const shown = { ...view, flat: yarn.rows ? 2 * yarn.rows.apart : 0 };
  const [cos, sin] = [Math.cos(view.turned), Math.sin(view.turned)];
  const pieces = [];
  const rims = [];
  const strands = new Map();
  const crowded = yarn.strands.length > CROWD;
  const inside = crowded && view.draft ? () => Infinity : crowded && !yarn.rows ? outlineOf(yarn, path, view) : () => 0;
  const hidden = -(yarn.thick / 2) * yarn.covered; // farther back everything lies behind something
  let mesh = device.mesh.room;
  mesh.count = 0;
  const around = (at, angle) => {
    const place = (((angle / 6.283185307) % 1) + 1) * SKY;
    const low = Math.floor(place);
    const a = sky[at * SKY + (low % SKY)];
    return a + (sky[at * SKY + ((low + 1) % SKY)] - a) * (place - low);
  };
  for (const strand of yarn.strands) {
    const { first, samples, lean, look, round, number, part } = strand;
    const [from, to] = span(strand, shown);
    if (from === to) continue;
    const grown = grownOf(look, view);
    const wide = strand.r[samples >> 1] * scale;
    const across = ACROSS[wide < THIN ? 1 : 0];
    const skipped = skippable(strand, scale, view.draft);
    const inmost = crowded && !yarn.rows && !held && wide < THIN ? BURIED * yarn.thick : 0;
    const bloomed = Math.min(Math.max(0, (look.grown - 1) / FULL_BLOOM) * bloom, 1.2);
    const looks = four(share(bloomed / 1.2), share(look.carded), share(look.lustre), share(((look.micron / 1000) * scale * 16) / 255));
    const size = Math.min(Math.max(Math.log2(tall / (tileHigh(look) * scale)) - 0.4, 0), 8) / 8;
    const more = (one, other) => shares(one, other, size, look.wound ? 127 : 0);
    const lifted = held && within(part, held);
    const faded = held && !lifted ? 255 : 0;
    const lift = lifted ? 40 : 0;
    const open = (seen) => (255 - (lifted ? 0.35 : 1) * (255 - seen)) >> 1; // out of the rest, little of what lay round it shades it
    const fuzz = (0.1 + 0.2 * look.carded + 0.36 * bloomed + 0.25 * look.hairs) * (1 - 0.5 * wet);
    const frayed = more(0, fuzz);
    const rimMm = (0.05 + 0.11 * look.carded + 0.28 * bloomed + 0.35 * look.hairs) * (1 - 0.5 * wet);
    const seen = new Float32Array(samples);
    const dyedAt = (q) => four(colour[q] + 0.5, colour[q + 1] + 0.5, colour[q + 2] + 0.5, faded);
    strands.set(strand, { seen, from, to, grown, looks, dyedAt, lift });
    mesh = mesh.grown(((to - from) / skipped + 3) * (across + 4));
    const missed = (at, i) => Math.abs(at(first + i) + at(first + i + 2 * skipped) - 2 * at(first + i + skipped)) * scale;
    const [over, up] = [(k) => path[4 * k] * length, (k) => cos * path[4 * k + 1] - sin * path[4 * k + 2]];
    const straight = (i) => Math.max(missed(over, i), missed(up, i)) < 2 * UNSEEN * (view.draft ? DRAFT : 1);
    const long = skipped * strand.step * scale <= LONGEST / (view.draft ? 1 : 2);
    let last = 0;
    const edges = [-1, -1]; // where the rims of the place before begin
    let piece = null;
    for (let i = from, next; ; i = next) {
      next = Math.min(i + (long && i + 2 * skipped < to && straight(i) ? 2 : 1) * skipped, to);
      const k = first + i;
      const q = 4 * k;
      const y = cos * path[q + 1] - sin * path[q + 2];
      const z = sin * path[q + 1] + cos * path[q + 2];
      let [tx, ty, tz] = [along[q] * length, cos * along[q + 1] - sin * along[q + 2], sin * along[q + 1] + cos * along[q + 2]];
      const tl = Math.sqrt(tx * tx + ty * ty + tz * tz);
      tx /= tl; ty /= tl; tz /= tl;
      const flat = Math.max(Math.sqrt(tx * tx + ty * ty), 1e-4);
      const [ex, ey, ez] = [(-tx * tz) / flat, (-ty * tz) / flat, flat];
      const [dx, dy] = [ty / flat, -tx / flat]; // square to the strand, in the page
      const [nx, ny, nz] = [frame[q], cos * frame[q + 1] - sin * frame[q + 2], sin * frame[q + 1] + cos * frame[q + 2]];
      const [bx, by, bz] = [ty * nz - tz * ny, tz * nx - tx * nz, tx * ny - ty * nx];
      let angle = Math.atan2(ex * bx + ey * by + ez * bz, ex * nx + ey * ny + ez * nz);
      angle += 6.283185307 * Math.round((last - angle) / 6.283185307);
      last = angle;
      seen.fill(angle, i, next);
      const r = path[q + 3] * grown;
      const px = (path[q] * length - left) * scale;
      const gone = colour[q + 3] + number * 0.37;
      const base = mesh.count;
      const dyed = dyedAt(q);
      const fibres = more(Math.cos(lean[i]), Math.sin(lean[i]));
      for (let j = 0; j < across; j += 1) {
        const beta = (j / (across - 1) - 0.5) * Math.PI;
        const [c, s] = [Math.cos(beta), Math.sin(beta)];
        const [mx, my, mz] = [c * ex + s * dx, c * ey + s * dy, c * ez];
        const turned = beta + angle;
        mesh.put(
          px + r * mx * scale, (y + r * my) * scale, z + r * mz + lift, gone, ((turned - frame[q + 3]) * round) / 6.283185307, 0,
          shares(mx, my, mz, open(around(strand.sky + i, turned))), shares(c * dx - s * ex, c * dy - s * ey, -s * ez, 0), dyed, looks, fibres,
        );
      }
      const behind = z + r < hidden;
      const rim = Math.max(Math.min(rimMm, r * 1.1), 1.6 / scale) * scale;
      for (const side of [-1, 1]) {
        const before = edges[(side + 1) / 2];
        const edge = behind || inside(px + side * r * scale * dx, (y + side * r * dy) * scale) > rim + 2 ? -1 : mesh.count;
        edges[(side + 1) / 2] = edge;
        if (edge < 0) continue;
        const upward = shares(0, 0, 1, open(around(strand.sky + i, angle + side * 1.570796)));
        for (const out of [0, 1]) {
          const away = (r * scale - 0.6 + out * (rim + 0.6)) * side;
          mesh.put(px + away * dx, y * scale + away * dy, z + lift, out * 0.12 + number * 0.61, gone * 0.9, out * (rim + 0.6), upward, shares(0, 0, 0, 127 * out), dyed, looks, frayed);
        }
        if (before >= 0) rims.push(before, edge);
      }
      const row = { base, deep: z + r < 0 && Math.abs(y) + r < inmost };
      if (piece) piece.rows.push(row);
      if (piece && !behind) piece.hidden = false;
      if (!piece || piece.rows.length > PIECE || i === to) {
        if (piece && !piece.hidden) pieces.push(piece);
        piece = { z: z + lift + r, across, rows: [row], hidden: behind && !lifted };
      }
      if (i === to) break;
    }
  }
  pieces.sort((a, b) => b.z - a.z); // the nearest first: a machine that asks for depth before it lights then lights nothing for nothing
  const points = POINTS[view.draft ? 1 : 0];
  const fuzzy = looseSeen(loose, strands, yarn, view);
  const facing = pieces.reduce((sum, { across, rows }) => sum + 6 * (rows.length - 1) * (across - 1), 0);
  const indices = new Uint32Array(facing + 3 * rims.length + 6 * (points - 1) * fuzzy.length);
  let count = 0;
  const square = (a, b) => { // two triangles, from a and the next to b and the next; the last corner of each is of the row of a
    indices[count] = b; indices[count + 1] = a + 1; indices[count + 2] = a; indices[count + 3] = b; indices[count + 4] = b + 1; indices[count + 5] = a + 1;
    count += 6;
  };
  const counts = [];
  const counted = () => counts.push(count - counts.reduce((sum, each) => sum + each, 0));
  for (const buried of [false, true]) {
    for (const { across, rows } of pieces) {
      for (let row = 1; row < rows.length; row += 1) {
        const [before, now] = [rows[row - 1], rows[row]];
        if ((before.deep && now.deep) === buried) for (let j = 0; j < across - 1; j += 1) square(before.base + j, now.base + j);
      }
    }
    counted();
  }
  for (let i = 0; i < rims.length; i += 2) square(rims[i], rims[i + 1]);
  counted();
  mesh = mesh.grown(2 * points * fuzzy.length);
  for (const fibre of fuzzy) standing(fibre, strands.get(fibre.strand), drawn, view, mesh, square, around, points);
  counted();
  device.mesh.room = mesh;
  return { mesh, indices, counts };
}

/** Return the loose fibres that are seen: as many as the yarn is fuzzy, within the picture, and not on its far side. */
function looseSeen(loose, strands, yarn, view) {
  const many = new Map(yarn.kinds.map((look) => [look, fuzziness(look, view)]));
  const most = loose.length * (view.draft ? 0.4 : 1);
  const found = [];
  for (let i = 0; i < most; i += 1) {
    const { strand, at, around, kind, rank } = loose[i];
    const shown = strands.get(strand);
    if (!shown || rank > many.get(strand.look)[kind] || at < shown.from || at >= shown.to) continue;
    if (Math.cos(around - shown.seen[Math.floor(at)]) > (kind ? -0.6 : 0)) found.push(loose[i]);
  }
  return found;
}

/** Put one loose fibre: lying on the surface, standing off with a free end, or in a loop. */
function standing({ strand, kind, at, around: start, long, high, seed }, { grown, looks, dyedAt, lift }, drawn, view, mesh, square, around, many) {
  const { path, frame, along } = drawn;
  const { first, samples, look } = strand;
  const { scale, left, length, wet } = view;
  const [cos, sin] = [Math.cos(view.turned), Math.sin(view.turned)];
  const laidAt = frame[4 * (first + Math.round(at)) + 3];
  const curl = Math.min(look.crimp / 6, 1) * (0.25 + 0.75 * look.carded) * 0.5;
  const fibre = (look.micron / 1000) * scale;
  const half = Math.max(fibre, 1) / 2;
  const points = [];
  for (let step = 0; step < many; step += 1) {
    const t = step / (many - 1);
    const wave = curl * Math.sin(6.2831853 * (t * (1.5 + 2 * seed) + seed * 7));
    const go = kind === 0 ? t : kind === 1 ? t - 0.3 * t * t : t + 0.36 * Math.sin(6.2831853 * t);
    const rise = kind === 0 ? high * Math.sin(Math.PI * t) : kind === 1 ? high * t ** 1.35 * (1 + 0.22 * Math.sin(5 * t + seed * 9)) : high * Math.sin(Math.PI * t) * (0.8 + 0.3 * Math.sin(seed * 20));
    const place = Math.min(Math.max(at + long * go, 0), samples - 1.001);
    const k = first + Math.floor(place);
    const share = place % 1;
    const q = 4 * k;
    const mix = (data, which) => data[q + which] + (data[q + 4 + which] - data[q + which]) * share;
    const angle = start + mix(frame, 3) - laidAt + (seed - 0.5) * (kind ? 2.6 : 0.7) * t + wave * 0.5;
    const [n0, n1, n2] = [mix(frame, 0), mix(frame, 1), mix(frame, 2)];
    const [t0, t1, t2] = [along[q], along[q + 1], along[q + 2]];
    const [c, s] = [Math.cos(angle), Math.sin(angle)];
    const n = [n0 * c + (t1 * n2 - t2 * n1) * s, n1 * c + (t2 * n0 - t0 * n2) * s, n2 * c + (t0 * n1 - t1 * n0) * s];
    const away = mix(path, 3) * grown * (kind ? 1 : 0.97) + rise * (1 + wave * 0.3) * (1 - 0.6 * wet);
    const [py, pz] = [mix(path, 1) + n[1] * away, mix(path, 2) + n[2] * away];
    points.push({
      x: ((mix(path, 0) + n[0] * away) * length - left) * scale, y: (cos * py - sin * pz) * scale, z: sin * py + cos * pz + lift,
      n: [n[0], cos * n[1] - sin * n[2], sin * n[1] + cos * n[2]], open: around(strand.sky + Math.floor(place), angle), q,
    });
  }
  points.forEach(({ x, y, z, n, open, q }, place) => {
    const [a, b] = [points[Math.max(place - 1, 0)], points[Math.min(place + 1, many - 1)]];
    const [gx, gy, gz] = [b.x - a.x, b.y - a.y, (b.z - a.z) * scale];
    const flat = Math.sqrt(gx * gx + gy * gy) || 1;
    const full = Math.sqrt(flat * flat + gz * gz);
    const tip = kind === 1 ? 1 - 0.5 * (place / (many - 1)) : 1;
    for (const side of [-1, 1]) {
      mesh.put(
        x - (gy / flat) * side * half, y + (gx / flat) * side * half, z, 0, 0, Math.min(fibre, 1) * (kind ? 0.72 : 0.8) * tip,
        shares(n[0], n[1], n[2], open >> 1), shares(gx / full, gy / full, gz / full, 0), dyedAt(q), looks, 0,
      );
    }
    if (place) square(mesh.count - 4, mesh.count - 2);
  });
}

/**
 * Draw a yarn into the shared canvas, and return that.
 *
 * view: width and height in pixels; scale, pixels per mm; left, mm at the left edge; turned, radians; bloom, length,
 * thick and wet, its state; held, the path of the part in hand; ground, the colour behind it; draft, for while it moves.
 */
function draw(drawn, view) {
  const { gl, canvas, mesh: { vertices, indices: places } } = device;
  const { width, height, scale, wet, held, ground, draft } = view;
  if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, { width, height });
  const tile = tileFor(drawn.yarn, view.bloom);
  const { mesh, indices, counts } = meshed(drawn, view, tile.high);
  whole();
  gl.bindBuffer(gl.ARRAY_BUFFER, vertices);
  gl.bufferData(gl.ARRAY_BUFFER, mesh.fours.subarray(0, (mesh.count * BYTES) / 4), gl.DYNAMIC_DRAW);
  gl.bindVertexArray(device.mesh.array);
  gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, places);
  gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, indices, gl.DYNAMIC_DRAW);
  gl.viewport(0, 0, width, height);
  gl.bufferSubData(gl.UNIFORM_BUFFER, 0, new Float32Array([width, height, scale, wet, ...ground, 0]));
  lit(tile, counts, Boolean(held) || drawn.yarn.kinds.some(({ wound }) => wound), draft);
  return gl.isContextLost() ? null : canvas; // of one just lost nothing can be taken
}

/** Light by a tile what was handed over: so many places of triangles of strands, of those deep inside, of rims and of loose fibres. */
function lit(tile, counts, all, draft = false) {
  const { gl, programs, mesh } = device;
  gl.bindVertexArray(mesh.array);
  gl.bindTexture(gl.TEXTURE_2D_ARRAY, tile.texture);
  gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_MIN_FILTER, draft ? gl.NEAREST_MIPMAP_NEAREST : gl.LINEAR_MIPMAP_NEAREST);
  gl.depthMask(true);
  gl.clearColor(0, 0, 0, 0);
  gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
  gl.enable(gl.DEPTH_TEST);
  gl.depthFunc(gl.LEQUAL);
  gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
  let from = 0;
  [all ? programs.all : programs.tube, programs.deep, programs.fin, programs.loose].forEach((made, over) => {
    const stands = over > 1; // off the strands
    if (stands) gl.enable(gl.BLEND);
    else gl.disable(gl.BLEND);
    gl.depthMask(!stands);
    gl.useProgram(made);
    gl.drawElements(gl.TRIANGLES, counts[over], gl.UNSIGNED_INT, 4 * from);
    from += counts[over];
  });
  gl.bindVertexArray(null);
}

export { ready, strandsIn, laid, draw, foreseen };
