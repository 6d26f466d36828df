// Cuts Bulma 1.0.4 (bulma.min.css as released) to what the templates use: see CONTRIBUTING.md.
// BULMA=path/to/bulma.min.css node requirements/bulma-cut.cjs > src/warmeter/web/static/vendor/bulma.used.css
const { PurgeCSS } = require("purgecss");
const web = `${__dirname}/../src/warmeter/web/`;
const words = (text) => text.match(/[\w-]+/g) || [];
// Classes where they are written, and every element; not each word of the text, which would keep half of Bulma.
const extractor = (text) => [
  ...(text.match(/class="[^"]*"|act\([^)]*\)/g) || []).flatMap(words),
  ...(text.match(/<[a-z][\w-]*/g) || []).map((tag) => tag.slice(1)),
  "html", "body", "*", ":root",
];
new PurgeCSS().purge({
  css: [process.env.BULMA],
  content: [`${web}templates/**/*.html`, `${web}templates/**/*.svg`],
  extractors: [{ extensions: ["html", "svg"], extractor }],
  keyframes: true,
  fontFace: true,
}).then(([found]) => process.stdout.write(found.css));
