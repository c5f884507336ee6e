// Sound as it comes from the microphone, in pieces of a twentieth of a second, to the page.
class Capture extends AudioWorkletProcessor {
  constructor() {
    super();
    this.piece = new Float32Array(2048);
    this.filled = 0;
    // The first moments of a microphone that is switched on are no sound.
    this.skip = Math.round(sampleRate * 0.03);
  }
  process([channels]) {
    for (const sample of channels[0] ?? []) {
      if (this.skip > 0) {
        this.skip -= 1;
        continue;
      }
      this.piece[this.filled] = sample;
      this.filled += 1;
      if (this.filled === this.piece.length) {
        this.port.postMessage(this.piece.slice());
        this.filled = 0;
      }
    }
    return true;
  }
}
registerProcessor("capture", Capture);
