// Listening: sound goes to the program, and what it makes of it comes back. What is to be told is told with the page's own forms.
(() => {
  let on = null;
  // Whoever stopped listening is told nothing aloud; at the end of a recording nobody stopped.
  let stopped = true;
  const panel = () => document.querySelector("section.ear");
  const show = (html) => {
    const place = panel()?.querySelector("[data-heard]");
    if (place) place.innerHTML = html;
  };
  const say = (text) => {
    const place = panel()?.querySelector("[data-heard]");
    if (!place) return;
    const line = document.createElement("p");
    line.className = "text-lg";
    line.textContent = text;
    place.replaceChildren(line);
  };
  const aloud = (text) => {
    if (!panel()?.querySelector("[data-aloud]")?.checked || !window.speechSynthesis) return;
    speechSynthesis.cancel();
    speechSynthesis.speak(new SpeechSynthesisUtterance(text));
  };

  // Forms wait for one another: each is sent from the page that the one before it brought.
  let queue = [];
  let sending = false;
  const send = () => {
    const frame = document.querySelector("#job form:has(input[name=seen]):has(input[name=press])");
    if (!frame || queue.length === 0) return;
    const fields = queue.shift();
    sending = true;
    const form = document.createElement("form");
    form.method = "post";
    form.action = frame.action.replace(/\/[^/]*$/, "/tell");
    form.hidden = true;
    const common = ["seen", "press"].map((name) => [name, frame.querySelector(`input[name=${name}]`).value]);
    for (const [name, value] of [...common, ...fields]) {
      const input = document.createElement("input");
      input.type = "hidden";
      input.name = name;
      input.value = value;
      form.append(input);
    }
    document.getElementById("job").append(form);
    htmx.process(form);
    form.requestSubmit();
  };
  // What was heard is kept before the page is left for another.
  let leaving = null;
  const leave = () => {
    const to = leaving;
    leaving = null;
    const link = [...document.links].find(({ href }) => href === to);
    if (link) link.click();
    else location.assign(to);
  };
  document.addEventListener("click", (event) => {
    const link = event.target.closest("a[href]");
    if (!sending || !link || event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    leaving = link.href;
  }, true);
  window.addEventListener("beforeunload", (event) => {
    if (sending) event.preventDefault();
  });

  document.addEventListener("htmx:afterSettle", ({ target }) => {
    if (target.id !== "job") return;
    if (on && panel()?.dataset.for !== on.purpose) stop();
    if (!sending) return;
    sending = false;
    if (document.querySelector("#job [role=alertdialog]")) {
      queue = [];
      leaving = null;
      say("Something is asked on the page: answer it, then play on.");
    }
    if (queue.length > 0) send();
    else if (leaving) leave();
    else if (!stopped) aloud(document.querySelector("#job [data-next]")?.textContent.trim() ?? "");
  });

  const unsaved = (why) => () => {
    if (!sending) return;
    sending = false;
    queue = [];
    leaving = null;
    say(`That was not saved, ${why}: play it again.`);
  };
  document.addEventListener("htmx:sendError", unsaved("the program did not answer"));
  document.addEventListener("htmx:responseError", unsaved("the program answered with an error"));

  const rest = () => {
    on?.socket.close();
    on?.tracks.forEach((track) => track.stop());
    on?.context.close();
    on = null;
    sessionStorage.removeItem("ear");
    button(false);
  };
  const stop = (why) => {
    rest();
    stopped = true;
    if (why) say(why);
    else show("");
  };

  const refusals = {
    NotAllowedError: "The browser was not allowed to use the microphone: allow it beside the address, then press Listen.",
    NotFoundError: "No microphone or instrument input was found: plug one in, then press Listen.",
    NotReadableError: "The microphone is held by another program: close that, then press Listen.",
  };
  const button = (pressed) => {
    for (const listen of panel()?.querySelectorAll("[data-listen]") ?? []) {
      const here = pressed && listen.dataset.listen === panel().dataset.for;
      listen.setAttribute("aria-pressed", String(here));
      listen.textContent = here ? "Stop listening" : listen.dataset.label;
    }
  };
  // A line to the program, for sound of that rate; a recording's has an end, after which nothing more is said.
  const line = (rate, opened, recording = false) => {
    const address = new URL(panel().dataset.address, location.href);
    address.protocol = address.protocol.replace("http", "ws");
    const socket = new WebSocket(address);
    stopped = false;
    socket.onopen = () => {
      socket.send(JSON.stringify({ rate, for: panel()?.dataset.for ?? "intonation", recording }));
      opened(socket);
    };
    socket.onmessage = ({ data }) => {
      const heard = JSON.parse(data);
      show(heard.html);
      if (heard.tell.length > 0) {
        queue.push(...heard.tell);
        if (!sending) send();
      } else if (heard.whole) aloud(heard.says);
    };
    socket.onclose = ({ wasClean }) => {
      if (on?.socket !== socket) return;
      if (on.ended && wasClean) rest();
      else stop("The program does not answer any more: press Listen when it runs again.");
    };
    return socket;
  };

  // Sound that is there already, in small blocks, as fast as the line takes it.
  const pour = async (socket, samples) => {
    for (let at = 0; at < samples.length && on?.socket === socket; at += 4096) {
      while (socket.bufferedAmount > 400000) await new Promise((resolve) => setTimeout(resolve, 20));
      socket.send(samples.slice(at, at + 4096));
    }
  };

  // A recording that is dropped on the panel is heard like a microphone, as fast as the line takes it.
  const recording = async (file) => {
    stop();
    const context = new AudioContext();
    let sound;
    try {
      sound = await context.decodeAudioData(await file.arrayBuffer());
    } catch {
      context.close();
      return say(`${file.name} is no recording that this browser reads: save it as WAV, 44100 or 48000 samples a second.`);
    }
    const samples = sound.getChannelData(0);
    for (let channel = 1; channel < sound.numberOfChannels; channel += 1) sound.getChannelData(channel).forEach((sample, n) => { samples[n] += sample; });
    const socket = line(sound.sampleRate, async () => {
      await pour(socket, samples);
      if (on?.socket !== socket) return;
      on.ended = true;
      socket.send("end");
    }, true);
    on = { socket, context, tracks: [], purpose: panel().dataset.for };
    button(true);
    // Of several things to listen for, the one that was pressed last, or the first.
    const choices = panel().querySelectorAll("[data-listen]");
    const chosen = [...choices].find((choice) => choice.dataset.listen === on.purpose);
    say(`Listening to ${file.name}${choices.length > 1 ? `: ${chosen.dataset.label}` : ""}`);
  };

  let starting = false;
  const start = async () => {
    if (starting) return;
    starting = true;
    try {
      await open();
    } finally {
      starting = false;
    }
  };
  const open = async () => {
    if (!navigator.mediaDevices || !window.AudioWorkletNode) {
      return say("This browser gives no microphone to this page: open it on this machine itself, or with encryption.");
    }
    let stream;
    try {
      stream = await navigator.mediaDevices.getUserMedia({ audio: { autoGainControl: false, echoCancellation: false, noiseSuppression: false } });
    } catch (error) {
      return say(refusals[error.name] ?? `The microphone could not be opened: ${error.message}`);
    }
    const context = new AudioContext();
    // After a reload nobody has pressed anything yet.
    context.resume();
    await context.audioWorklet.addModule(panel().dataset.capture);
    const node = new AudioWorkletNode(context, "capture", { channelCount: 1, channelCountMode: "explicit", numberOfOutputs: 0 });
    const socket = line(context.sampleRate, () => {
      context.createMediaStreamSource(stream).connect(node);
      say(panel().querySelector(`[data-listen=${panel().dataset.for}]`).dataset.says);
    });
    on = { socket, context, tracks: stream.getTracks(), purpose: panel().dataset.for };
    // What the line does not carry is let go rather than heard late. Silence stands in its place, by which the ear knows that a note is not whole.
    let lost = false;
    node.port.onmessage = ({ data }) => {
      if (socket.readyState !== WebSocket.OPEN) return;
      const carries = socket.bufferedAmount < 400000;
      if (carries && lost) socket.send(new Float32Array(data.length));
      if (carries) socket.send(data);
      lost = !carries;
    };
    sessionStorage.setItem("ear", panel().dataset.for);
    button(true);
  };

  // At a practice bench a string is plucked with a button: whoever is there hears it, and so does the ear.
  const AT = 48000;
  let plucks = 0;
  const pluck = async (address, purpose) => {
    let sound;
    const context = new AudioContext({ sampleRate: AT });
    try {
      const answer = await fetch(`${address}&pluck=${plucks}`);
      plucks += 1;
      sound = await context.decodeAudioData(await answer.arrayBuffer());
    } catch {
      context.close();
      return say("No sound came, the program did not answer: pluck again.");
    }
    const heard = context.createBufferSource();
    heard.buffer = sound;
    heard.connect(context.destination);
    heard.onended = () => context.close();
    heard.start();
    if (!panel()) return;
    const samples = sound.getChannelData(0).slice();
    if (purpose) panel().dataset.for = purpose;
    if (on && (!on.plucked || on.purpose !== panel().dataset.for)) stop();
    if (on) return pour(on.socket, samples);
    const socket = line(AT, () => pour(socket, samples));
    on = { socket, context: { close() {} }, tracks: [], plucked: true, purpose: panel().dataset.for };
    button(true);
    say(purpose ? "Struck here, and heard by the ear." : "Plucked here, and heard by the ear: harmonic or open, then fretted.");
  };

  document.addEventListener("click", ({ target }) => {
    const listen = target.closest("[data-listen]")?.dataset.listen;
    if (listen) {
      const other = listen !== on?.purpose;
      if (on) stop();
      panel().dataset.for = listen;
      if (other) start();
    }
    const plucked = target.closest("[data-pluck]");
    if (plucked) pluck(plucked.dataset.pluck, plucked.dataset.pluckFor);
  });
  document.addEventListener("change", ({ target }) => {
    if (target.matches("[data-recording]") && target.files.length > 0) recording(target.files[0]);
  });
  document.addEventListener("dragover", (event) => {
    if (event.target.closest(".ear")) event.preventDefault();
  });
  document.addEventListener("drop", (event) => {
    if (!event.target.closest(".ear")) return;
    event.preventDefault();
    if (event.dataTransfer.files.length > 0) recording(event.dataTransfer.files[0]);
  });
  // After a reload it goes on where it was.
  const before = sessionStorage.getItem("ear");
  if (before && panel()?.querySelector(`[data-listen="${CSS.escape(before)}"]`)) {
    panel().dataset.for = before;
    start();
  }
})();
