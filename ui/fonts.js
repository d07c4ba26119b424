// Copies the fonts and the icon the pages ask for beside the other assets.
import { copyFileSync, mkdirSync } from "node:fs";

const out = "web/assets";
mkdirSync(out, { recursive: true });
copyFileSync("node_modules/@fontsource-variable/overpass/files/overpass-latin-wght-normal.woff2", `${out}/overpass.woff2`);
copyFileSync("node_modules/@fontsource-variable/overpass-mono/files/overpass-mono-latin-wght-normal.woff2", `${out}/overpass-mono.woff2`);
copyFileSync("ui/icon.svg", `${out}/icon.svg`);
