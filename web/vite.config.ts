import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { loadEnv } from "vite";
import { defineConfig } from "vitest/config";

export default defineConfig({
	plugins: [react(), tailwindcss()],
	build: { target: "es2022", emptyOutDir: false, assetsInlineLimit: 0 },
	server: { proxy: { "/api": { target: `http://127.0.0.1:${loadEnv("", ".", "PORT").PORT ?? 8800}`, changeOrigin: false } } },
	test: { include: ["src/**/*.test.{ts,tsx}"] },
});
