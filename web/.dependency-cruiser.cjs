// app > rooms > ui | api > core; a room is entered only by its index.ts; no circles.
module.exports = {
  forbidden: [
    { name: "no-circles", severity: "error", from: {}, to: { circular: true } },
    { name: "core-is-pure", severity: "error", from: { path: "^src/core" }, to: { path: "^src/(app|rooms|ui|api)|node_modules/(react|@mantine|@tanstack)" } },
    { name: "ui-knows-no-room", severity: "error", from: { path: "^src/ui" }, to: { path: "^src/(app|rooms|api)" } },
    { name: "api-knows-no-screen", severity: "error", from: { path: "^src/api" }, to: { path: "^src/(app|rooms|ui)" } },
    { name: "rooms-below-app", severity: "error", from: { path: "^src/rooms" }, to: { path: "^src/app" } },
    { name: "rooms-by-their-door", severity: "error", from: { path: "^src/rooms/([^/]+)/" }, to: { path: "^src/rooms/([^/]+)/", pathNot: ["^src/rooms/$1/", "^src/rooms/[^/]+/index\\.ts$"] } },
    { name: "app-by-the-door", severity: "error", from: { path: "^src/app" }, to: { path: "^src/rooms/[^/]+/", pathNot: "^src/rooms/[^/]+/index\\.ts$" } },
  ],
  options: { doNotFollow: { path: "node_modules" }, tsPreCompilationDeps: true, tsConfig: { fileName: "tsconfig.json" } },
};
