/** Builds the pages of panel hosts into dist/glass: scripts, styles and fonts, named by what they hold. */
import tailwind from '@tailwindcss/postcss';
import { build } from 'esbuild';
import { readFile, writeFile } from 'node:fs/promises';
import { rmSync } from 'node:fs';
import { basename, join } from 'node:path';
import postcss from 'postcss';
import { precompress } from './precompress.mjs';

/** The same styles as the bench's, made by the same tools. */
const styles = {
  name: 'styles',
  setup(builder) {
    builder.onLoad({ filter: /globals\.css$/ }, async ({ path }) => {
      const { css } = await postcss([tailwind({ optimize: { minify: true } })]).process(await readFile(path, 'utf8'), { from: path });
      return { contents: css, loader: 'css' };
    });
  },
};

export async function buildGlass(root) {
  const outdir = join(root, 'dist/glass');
  rmSync(outdir, { recursive: true, force: true });
  const { metafile } = await build({
    entryPoints: { glass: join(root, 'src/ui/host/glassMain.tsx') },
    outdir,
    entryNames: '[name]-[hash]',
    chunkNames: '[hash]',
    assetNames: '[name]-[hash]',
    bundle: true,
    splitting: true,
    minify: true,
    format: 'esm',
    target: 'es2022',
    jsx: 'automatic',
    define: { 'process.env.NODE_ENV': '"production"' },
    loader: { '.woff2': 'file', '.woff': 'file' },
    publicPath: '/glass/',
    plugins: [styles],
    metafile: true,
    logLevel: 'warning',
    tsconfig: join(root, 'tsconfig.json'),
  });
  const outputs = Object.entries(metafile.outputs);
  const script = outputs.find(([, { entryPoint }]) => entryPoint?.endsWith('glassMain.tsx'));
  const style = script && script[1].cssBundle;
  if (!script || !style) throw new Error('The pages of panel hosts were not built.');
  await writeFile(join(outdir, 'built.json'), JSON.stringify({ script: basename(script[0]), style: basename(style) }));
  precompress(outdir);
}
