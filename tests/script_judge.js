// Evaluates configuration scripts as the framework's tools would, one line of questions each: {key, file, env}.
const fs = require('fs'), path = require('path');
const answers = {};
for (const line of fs.readFileSync(0, 'utf8').trim().split('\n')) {
  const { key, file, env } = JSON.parse(line);
  for (const name of Object.keys(process.env)) delete process.env[name];
  Object.assign(process.env, env);
  for (const name of Object.keys(require.cache)) delete require.cache[name];
  const beside = path.join(path.dirname(file), 'app.json');
  const read = fs.existsSync(beside) ? JSON.parse(fs.readFileSync(beside, 'utf8')) : {};
  let found = require(file);
  found = found.default ?? found;
  if (typeof found === 'function') found = found({ config: read.expo ?? read });
  found = JSON.parse(JSON.stringify(found.expo ?? found));
  const own = JSON.parse(fs.readFileSync(path.join(path.dirname(file), 'package.json'), 'utf8'));  // its defaults
  const text = (value) => (value === undefined ? null : String(value));
  const told = (id, half, build) => ({ id: text(id), name: text(found.name ?? own.name), version: text(half?.version ?? found.version ?? own.version), build: text(build) });
  answers[key] = {
    ios: told(found.ios?.bundleIdentifier, found.ios, found.ios?.buildNumber),
    android: told(found.android?.package, found.android, found.android?.versionCode),
  };
}
console.log(JSON.stringify(answers));
