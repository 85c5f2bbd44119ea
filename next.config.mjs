/** @type {import('next').NextConfig} */
export default {
  poweredByHeader: false,
  devIndicators: false,
  // The server does, with brotli: see src/server/httpServer.ts.
  compress: false,
  reactStrictMode: true,
  // Types are checked by `npm test` for the whole project at once.
  typescript: { ignoreBuildErrors: true },
};
