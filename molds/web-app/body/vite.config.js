{= if view == "react" =}
import react from "@vitejs/plugin-react";
{= else if view == "vue" =}
import vue from "@vitejs/plugin-vue";
{= end =}
import { defineConfig } from "vite";

export default defineConfig({
  {= if view == "react" =}
  plugins: [react()],
  {= else if view == "vue" =}
  plugins: [vue()],
  {= end =}
  server: { port: Number(process.env.PORT ?? {= port =}), strictPort: true },
});
