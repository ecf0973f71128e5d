/** Debian's Chromium with WebGL in software, as on a machine without a graphics card. */
export const CHROMIUM_ARGUMENTS = [
  '--no-sandbox',
  '--use-angle=swiftshader',
  '--enable-unsafe-swiftshader',
  '--ignore-gpu-blocklist',
  '--disable-background-networking',
];
