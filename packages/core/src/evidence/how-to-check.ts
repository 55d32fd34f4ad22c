/** The page that goes with every pack. */
export const HOW_TO_CHECK = `# How to check this pack

With the tool: \`jurybox verify PACK.zip\`, or open \`verify.html\` in a browser and choose the pack. Neither needs a
network. Both check the files, the signature and the times, and judge the records anew by the rules in this pack.

Without the tool:

1. Unpack it. \`sha256sum --check SHA256SUMS\` says whether any file was changed.
2. \`openssl pkeyutl -verify -pubin -inkey key.pem -rawin -in manifest.json -sigfile manifest.sig\` says whether
   \`manifest.json\` was signed with the key in \`key.pem\`.
3. Compare the key with the fingerprint that the report prints: the first 40 hexadecimal digits of the SHA-256 of
   the last 32 bytes of the key.
4. \`root\` in \`manifest.json\` is the head of the hash tree of RFC 6962 over the lines of \`SHA256SUMS\`.

| file | holds |
|---|---|
| \`audit.json\` | verdicts with the lines that they cite |
| \`snapshot/\` | the records that were judged; \`before/\`: those that they were compared with |
| \`records.json\` | when each record was captured |
| \`benchmarks/\`, \`choices.json\` | the rules as they were run, and the values that were set |
| \`facts.json\` | what was said of each device |
| \`waivers.json\` | findings that are accepted for a time, by whom and why |
| \`answers.json\`, \`answers/\` | what people answered, with the files that they gave |
| \`activity.json\`, \`log-heads.json\` | entries of the audit log, and its signed head of each day |
`
