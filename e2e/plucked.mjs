// Sound of plucked strings for a browser's microphone: partials of a stiff string that die, the high ones first; nothing of it is
// shared with the ear.

const RATE = 48000;
// Chromium's own microphone runs before a busy machine's page has its line to the program: nothing is played until then, seconds.
const LEAD = 2;

// Noise of its own, the same in every run.
function noise(seed) {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 31 - 1;
  };
}

// One note from its pluck on: its lowest partial in hertz, its stiffness, how long; a touched string keeps a trace of what lies between;
// one that buzzes is struck anew at every swing, at no two alike, until it swings clear.
export function pluck(hz, { stiffness = 1e-4, seconds = 1.55, touched = false, buzzes = 0 } = {}) {
  const out = new Float32Array(Math.round(seconds * RATE));
  const base = hz / Math.sqrt(1 + stiffness);
  const add = (frequency, size, decay) => {
    const turn = (2 * Math.PI * frequency) / RATE;
    for (let n = 0; n < out.length; n += 1) out[n] += size * Math.exp((-decay * n) / RATE) * Math.sin(turn * n);
  };
  for (let k = 1; k * base < 9000 && k <= 30; k += 1) {
    const size = Math.abs(Math.sin(k * Math.PI * 0.17) * Math.sin(k * Math.PI * 0.23)) / k + 0.002;
    add(k * base * Math.sqrt(1 + stiffness * k * k), 0.35 * size, 0.9 + 0.0008 * k * base);
  }
  const random = noise(11);
  const period = RATE / hz;
  for (let swing = 0; swing * period < buzzes * RATE; swing += 1) {
    const at = Math.round((swing + 0.3 * random()) * period);
    const size = 0.06 * (1 + 0.5 * random()) * (1 - (swing * period) / (buzzes * RATE));
    for (let n = 0; n < 60; n += 1) if (at + n >= 0 && at + n < out.length) out[at + n] += size * Math.exp(-n / 12) * random();
  }
  if (touched) for (const odd of [1, 3, 5, 7]) add((odd * base) / 2, 0.008 / odd, 12);
  return out;
}

// Sounds one after the other with silence between them, as a WAV file of sixteen bits; `floor` is the noise of the room.
export function wav(sounds, { gap = 0.12, floor = 1e-4, lead = LEAD } = {}) {
  const random = noise(7);
  const quiet = Math.round(gap * RATE);
  const before = Math.round(lead * RATE);
  const length = sounds.reduce((sum, sound) => sum + sound.length + quiet, before);
  const data = Buffer.alloc(44 + 2 * length);
  data.write("RIFF", 0);
  data.writeUInt32LE(36 + 2 * length, 4);
  data.write("WAVEfmt ", 8);
  data.writeUInt32LE(16, 16);
  data.writeUInt16LE(1, 20);
  data.writeUInt16LE(1, 22);
  data.writeUInt32LE(RATE, 24);
  data.writeUInt32LE(2 * RATE, 28);
  data.writeUInt16LE(2, 32);
  data.writeUInt16LE(16, 34);
  data.write("data", 36);
  data.writeUInt32LE(2 * length, 40);
  let at = 0;
  const put = (sample) => {
    data.writeInt16LE(Math.round(Math.max(-1, Math.min(1, sample + floor * random())) * 32767), 44 + 2 * at);
    at += 1;
  };
  for (let n = 0; n < before; n += 1) put(0);
  for (const sound of sounds) {
    for (const sample of sound) put(sample);
    for (let n = 0; n < quiet; n += 1) put(0);
  }
  return data;
}
