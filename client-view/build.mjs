// Builds the page that a client opens: script, style and font in one HTML file, with a place for what is shown.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';

const here = dirname(fileURLToPath(import.meta.url));
const { outputFiles } = await build({
  entryPoints: [join(here, 'src', 'main.ts'), join(here, 'src', 'style.css')],
  bundle: true,
  minify: true,
  write: false,
  outdir: join(here, 'dist'),
  format: 'iife',
  target: 'es2022',
  loader: { '.woff2': 'dataurl', '.woff': 'empty' },
  legalComments: 'none',
  logLevel: 'warning',
});
const text = (ending) => outputFiles.find(({ path }) => path.endsWith(ending)).text;
// A closing tag in a string of a library would end the script.
const script = text('.js').replaceAll('</script', '<\\/script');
const page = readFileSync(join(here, 'src', 'page.html'), 'utf8')
  .replace('/*style*/', () => text('.css'))
  .replace('/*script*/', () => script);
mkdirSync(join(here, 'dist'), { recursive: true });
writeFileSync(join(here, 'dist', 'page.html'), page);
