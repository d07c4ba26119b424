declare module "@alpinejs/csp" {
  const Alpine: { data(name: string, make: () => Record<string, unknown>): void; start(): void };
  export default Alpine;
}
