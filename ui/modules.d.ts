declare module "exifr/dist/mini.esm.mjs" {
  const exifr: { parse(file: Blob, tags: string[]): Promise<unknown> };
  export default exifr;
}
declare module "@alpinejs/csp" {
  const Alpine: { data(name: string, make: () => Record<string, unknown>): void; start(): void };
  export default Alpine;
}
