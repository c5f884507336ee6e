// Runs the built program; or starts it and waits until it answers, stops or kills it.
import { execFile, spawn } from "node:child_process";
import { once } from "node:events";
import { fileURLToPath } from "node:url";
import { promisify } from "node:util";

const root = fileURLToPath(new URL("..", import.meta.url));
export const program = process.env.GRADIMEN ?? `${root}target/debug/gradimen`;

// Runs it to its end, with a line of input where one is given.
export async function run(args, input = "") {
  const running = promisify(execFile)(program, args);
  running.child.stdin.end(input);
  return running;
}

export async function start(args) {
  const child = spawn(program, args, { stdio: ["ignore", "pipe", "pipe"] });
  let said = "";
  let wrong = "";
  child.stderr.on("data", (bytes) => { wrong += bytes; });
  const address = await new Promise((resolve, reject) => {
    child.stdout.on("data", (bytes) => {
      said += bytes;
      const found = said.match(/https?:\/\/[^/\s]+/);
      if (found) resolve(found[0]);
    });
    child.on("exit", () => reject(new Error(`the program stopped: ${wrong}`)));
  });
  return {
    address,
    said: () => said,
    stop: async (signal = "SIGTERM") => {
      if (child.exitCode !== null || child.signalCode !== null) return;
      const ended = once(child, "exit");
      child.kill(signal);
      await ended;
    },
  };
}
