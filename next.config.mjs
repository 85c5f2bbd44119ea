/** @type {import('next').NextConfig} */
export default {
  poweredByHeader: false,
  devIndicators: false,
  reactStrictMode: true,
  // Types are checked by `npm test` for the whole project at once.
  typescript: { ignoreBuildErrors: true },
};
