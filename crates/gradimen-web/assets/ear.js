// Listening: sound goes to the program, and what it makes of it comes back. What is to be told is told with the page's own forms.
(() => {
  let on = null;
  const panel = () => document.getElementById("ear");
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
    const fields = queue.shift();
    if (!fields || !frame) return;
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
  document.addEventListener("htmx:afterSettle", () => {
    if (!on) return;
    if (!panel()) return stop();
    if (!sending) return;
    sending = false;
    if (document.querySelector("#job [role=alertdialog]")) {
      queue = [];
      say("Something is asked on the page: answer it, then play on.");
    }
    if (queue.length > 0) send();
    else aloud(document.querySelector("#job [data-next]")?.textContent.trim() ?? "");
  });

  const stop = (why) => {
    on?.socket.close();
    on?.tracks.forEach((track) => track.stop());
    on?.context.close();
    on = null;
    sessionStorage.removeItem("ear");
    const button = panel()?.querySelector("[data-listen]");
    if (button) {
      button.setAttribute("aria-pressed", "false");
      button.textContent = "Listen";
    }
    if (why) say(why);
    else show("");
  };

  const refusals = {
    NotAllowedError: "The browser was not allowed to use the microphone: allow it beside the address, then press Listen.",
    NotFoundError: "No microphone or instrument input was found: plug one in, then press Listen.",
    NotReadableError: "The microphone is held by another program: close that, then press Listen.",
  };
  const start = async () => {
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
    await context.audioWorklet.addModule(panel().dataset.capture);
    const node = new AudioWorkletNode(context, "capture", { channelCount: 1, channelCountMode: "explicit", numberOfOutputs: 0 });
    const address = new URL(panel().dataset.address, location.href);
    address.protocol = address.protocol.replace("http", "ws");
    const socket = new WebSocket(address);
    on = { socket, context, tracks: stream.getTracks() };
    const mine = on;
    socket.onopen = () => {
      socket.send(JSON.stringify({ rate: context.sampleRate }));
      context.createMediaStreamSource(stream).connect(node);
      say("Listening: the harmonic at 12 or the open string, then fretted at 12. Any string, in any order.");
    };
    // What the line does not carry is let go rather than heard late; a note in which that happens is not measured whole.
    node.port.onmessage = ({ data }) => {
      if (socket.readyState === WebSocket.OPEN && socket.bufferedAmount < 400000) socket.send(data);
    };
    socket.onmessage = ({ data }) => {
      const heard = JSON.parse(data);
      show(heard.html);
      if (heard.tell.length > 0) {
        queue.push(...heard.tell);
        if (!sending) send();
      } else if (!heard.says.includes("listening")) aloud(heard.says);
    };
    socket.onclose = () => {
      if (on === mine) stop("The program does not answer any more: press Listen when it runs again.");
    };
    sessionStorage.setItem("ear", "on");
    const button = panel().querySelector("[data-listen]");
    button.setAttribute("aria-pressed", "true");
    button.textContent = "Stop listening";
  };

  document.addEventListener("click", ({ target }) => {
    if (target.closest("[data-listen]")) on ? stop() : start();
  });
  // After a reload it goes on where it was.
  if (sessionStorage.getItem("ear") === "on" && panel()) start();
})();
