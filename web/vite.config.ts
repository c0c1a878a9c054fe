import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

/** What was seen last is kept: without a network it is shown again. Live streams and downloads are never kept. */
const seen = {
  urlPattern: ({ url, request, sameOrigin }: { url: URL; request: Request; sameOrigin: boolean }) =>
    sameOrigin && request.method === "GET" && url.pathname.startsWith("/api/") && !/^\/api\/(live|stations|takes|tonight)\b/.test(url.pathname) && !/\.(csv|zip|parquet|json)$/.test(url.pathname),
  handler: "NetworkFirst" as const,
  options: { cacheName: "seen", expiration: { maxEntries: 300, maxAgeSeconds: 60 * 86_400 }, cacheableResponse: { statuses: [200] } },
};

export default defineConfig({
  plugins: [
    react(),
    tailwindcss(),
    VitePWA({
      registerType: "autoUpdate",
      injectRegister: false,
      manifest: {
        name: "Agile Strike",
        short_name: "Agile Strike",
        description: "Measures strikes, and whether a change of stance makes them heavier",
        start_url: "/",
        display: "standalone",
        background_color: "#F2F6F4",
        theme_color: "#0D2529",
        icons: [{ src: "/icon.svg", sizes: "any", type: "image/svg+xml", purpose: "any" }],
      },
      workbox: {
        globPatterns: ["**/*.{js,css,html,svg,woff2}"],
        navigateFallback: "/index.html",
        navigateFallbackDenylist: [/^\/api\//, /^\/r\//],
        runtimeCaching: [seen],
      },
    }),
  ],
  build: { assetsInlineLimit: 0, modulePreload: { polyfill: false }, chunkSizeWarningLimit: 700 },
});
