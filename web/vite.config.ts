import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
	plugins: [react(), tailwindcss()],
	build: { target: "es2022", emptyOutDir: false, assetsInlineLimit: 0 },
	server: { proxy: { "/api": "http://127.0.0.1:8800" } },
	test: { include: ["src/**/*.test.ts"] },
});
