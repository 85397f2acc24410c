// Check written pages: node tools/validate.mjs FOLDER… – HTML by html-validate, CSS by stylelint's standard configuration.
// Prints one line for each error and ends with 1 if there is one.
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { HtmlValidate } from "html-validate";
import stylelint from "stylelint";

const html = new HtmlValidate({
  extends: ["html-validate:recommended", "html-validate:document"],
  // void elements end in "/>", as Prettier writes them, and long lines of markup are no error
  rules: {
    "void-style": ["error", { style: "selfclosing" }],
    "long-title": "off",
    "doctype-style": "off",
    "require-sri": ["error", { target: "crossorigin" }],
  },
});
let wrong = 0;
const tell = (file, line, rule, text) => {
  wrong++;
  console.log(`${file}:${line}: ${rule}: ${text}`);
};
for (const folder of process.argv.slice(2)) {
  const page = join(folder, "index.html");
  const report = await html.validateString(readFileSync(page, "utf8"), page);
  for (const r of report.results)
    for (const m of r.messages) if (m.severity === 2) tell(page, m.line, m.ruleId, m.message);
  const sheet = join(folder, "styles.css");
  const { results } = await stylelint.lint({
    code: readFileSync(sheet, "utf8"),
    codeFilename: sheet,
    config: {
      extends: "stylelint-config-standard",
      // classes are block__element; every part has one class, whatever the order in which they were needed
      rules: {
        "selector-class-pattern": "^[a-z0-9]+(-[a-z0-9]+)*(__[a-z0-9]+(-[a-z0-9]+)*)?$",
        "no-descending-specificity": null,
      },
    },
  });
  for (const r of results) for (const w of r.warnings) tell(sheet, w.line, w.rule, w.text);
}
process.exit(wrong ? 1 : 0);
