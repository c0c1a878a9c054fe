import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

/**
 * What was seen last is kept: without a network it is shown again. Never live streams, nor a file, nor what says no-store.
 * These functions are written into the service worker as they stand: nothing from outside them is there.
 */
const seen = {
  urlPattern: ({ url, request, sameOrigin }: { url: URL; request: Request; sameOrigin: boolean }) =>
    sameOrigin && request.method === "GET" && url.pathname.startsWith("/api/") && !/^\/api\/(live|stations|takes|tonight)\b/.test(url.pathname) && !url.pathname.includes("."),
  handler: "NetworkFirst" as const,
  options: {
    cacheName: "seen-2",
    expiration: { maxEntries: 300, maxAgeSeconds: 60 * 86_400 },
    cacheableResponse: { statuses: [200] },
    plugins: [
      {
        cacheWillUpdate: async ({ response }: { response: Response }) =>
          !(response.headers.get("Cache-Control") ?? "").includes("no-store") && (response.headers.get("Content-Type") ?? "").startsWith("application/json") ? response : null,
      },
    ],
  },
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
