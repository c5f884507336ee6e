// Starts the built program and waits until it answers; stops or kills it.
import { spawn } from "node:child_process";
import { once } from "node:events";
import { fileURLToPath } from "node:url";

const root = fileURLToPath(new URL("..", import.meta.url));
export const program = process.env.GRADIMEN ?? `${root}target/debug/gradimen`;

export async function start(args) {
  const child = spawn(program, args, { stdio: ["ignore", "pipe", "pipe"] });
  let said = "";
  let wrong = "";
  child.stderr.on("data", (bytes) => { wrong += bytes; });
  const address = await new Promise((resolve, reject) => {
    child.stdout.on("data", (bytes) => {
      said += bytes;
      const found = said.match(/http:\/\/[^/\s]+/);
      if (found) resolve(found[0]);
    });
    child.on("exit", () => reject(new Error(`the program stopped: ${wrong}`)));
  });
  return {
    address,
    stop: async (signal = "SIGTERM") => {
      if (child.exitCode !== null || child.signalCode !== null) return;
      const ended = once(child, "exit");
      child.kill(signal);
      await ended;
    },
  };
}
