// A microphone for journeys that look at what is made of a sound. Chromium's own runs in real time and leaves pieces out on a busy machine;
// here every sample reaches the page's own worklet and goes over its own line, and nothing more is played before the line is empty.

// To be called before the page is opened.
export async function microphone(page) {
  await page.addInitScript(() => {
    const said = [];
    let line;
    let source;
    const send = WebSocket.prototype.send;
    WebSocket.prototype.send = function (data) {
      line = this;
      return send.call(this, data);
    };
    navigator.mediaDevices.getUserMedia = async () => new MediaStream();
    AudioContext.prototype.createMediaStreamSource = function () {
      source = new GainNode(this);
      // An input that is on is never without a sample.
      const hush = new ConstantSourceNode(this, { offset: 0 });
      hush.connect(source);
      hush.start();
      return source;
    };
    const until = async (done) => {
      while (!done()) await new Promise((resolve) => setTimeout(resolve, 20));
    };
    window.playIntoMicrophone = async (bytes) => {
      await until(() => source?.context.state === "running" && line?.readyState === WebSocket.OPEN);
      const { context } = source;
      const buffer = await context.decodeAudioData(Uint8Array.from(atob(bytes), (byte) => byte.charCodeAt(0)).buffer);
      const sound = new AudioBufferSourceNode(context, { buffer });
      sound.connect(source);
      const ended = new Promise((resolve) => { sound.onended = resolve; });
      sound.start();
      await ended;
      await until(() => line.bufferedAmount === 0);
    };
    // All that was said, in order.
    new MutationObserver(() => {
      const text = document.querySelector("[data-heard]")?.innerText.replace(/\s+/g, " ").trim();
      if (text && text !== said.at(-1)) said.push(text);
    }).observe(document, { childList: true, subtree: true, characterData: true });
    window.saidOfSound = said;
  });
  return {
    play: (sound) => page.evaluate((bytes) => window.playIntoMicrophone(bytes), sound.toString("base64")),
    said: () => page.evaluate(() => window.saidOfSound),
  };
}
