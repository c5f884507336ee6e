// Where Chromium is and how it starts; one place for journeys and pictures.
import { existsSync } from "node:fs";

const places = [process.env.CHROMIUM, "/usr/bin/chromium", "/usr/bin/chromium-browser", "/usr/bin/google-chrome"];

export const launchOptions = {
  executablePath: places.find((place) => place && existsSync(place)),
  args: ["--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync"],
};
