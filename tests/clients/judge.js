// What the frameworks' own commands make of a project: node judge.js COMMAND ROOT [MORE]; the answer is JSON.
const fs = require('fs'), path = require('path');
const [command, folder, more] = process.argv.slice(2);
const root = path.resolve(folder);
process.chdir(root);

// One evaluation of a configuration: ID, name, version, build number of each half.
function evaluated(folder) {
  const { exp } = require('@expo/config').getConfig(folder, { skipSDKVersionRequirement: true });
  const half = (id, own, build) => [id, exp.name, own?.version ?? exp.version, build].map((value) => (value === undefined ? null : String(value)));
  return { ios: half(exp.ios?.bundleIdentifier, exp.ios, exp.ios?.buildNumber), android: half(exp.android?.package, exp.android, exp.android?.versionCode) };
}

const commands = {
  // Both platforms are made of config.xml, and prepared.
  async cordova() {
    const { ConfigParser, events } = require('cordova-common');
    for (const platform of ['android', 'ios']) {
      const Api = require(`cordova-${platform}`), at = path.join(root, 'platforms', platform);
      const config = new ConfigParser(path.join(root, 'config.xml'));
      await Api.createPlatform(at, config, {}, events);
      const locations = { plugins: path.join(root, 'plugins'), www: path.join(root, 'www'), rootConfigXml: path.join(root, 'config.xml') };
      await new Api(platform, at, events).prepare({ root, projectConfig: config, locations }, {});
    }
    return {};
  },
  // Which app, package and Xcode project the command finds.
  async 'react-native'() {
    const android = require('@react-native-community/cli-config-android').projectConfig(root, {});
    const ios = require('@react-native-community/cli-config-apple').getProjectConfig({ platformName: 'ios' })(root, {});
    return { package: android?.packageName, id: android?.applicationId, activity: android?.mainActivity, project: ios?.xcodeProject?.name };
  },
  // The configurations below a folder, evaluated for each value of the variable: more is {name: [value]}.
  async expo() {
    const found = {};
    for (const [name, values] of Object.entries(JSON.parse(more))) {
      found[name] = {};
      for (const value of values) {
        delete process.env.APP_VARIANT;
        if (value) process.env.APP_VARIANT = value;
        for (const file of Object.keys(require.cache)) if (file.startsWith(root)) delete require.cache[file];
        found[name][value] = evaluated(path.join(root, name));
      }
    }
    return found;
  },
  // Native halves, made of a template (more) where there are none, and set by the configuration.
  async generate() {
    for (const half of ['android', 'ios']) {
      if (!fs.existsSync(half)) fs.cpSync(path.join(more, half), path.join(root, half), { recursive: true });
    }
    const { exp } = await require('@expo/prebuild-config').getPrebuildConfigAsync(root, { platforms: ['ios', 'android'] });
    const { compileModsAsync } = require('@expo/config-plugins/build/plugins/mod-compiler');
    await compileModsAsync(exp, { projectRoot: root, platforms: ['ios', 'android'], assertMissingModProviders: false });
    return {};
  },
  // The configuration's IDs, evaluated.
  async nativescript() {
    const ts = require('typescript'), Module = require('module');
    const name = path.join(root, 'nativescript.config.ts'), made = new Module(name);
    const options = { module: ts.ModuleKind.CommonJS, target: ts.ScriptTarget.ES2022 };
    made._compile(ts.transpileModule(fs.readFileSync(name, 'utf8'), { compilerOptions: options }).outputText, name);
    const found = made.exports.default;
    return { android: found.android?.id ?? found.id, ios: found.ios?.id ?? found.id };
  },
  // What the compiler objects to in the scripts of a project.
  async parse() {
    const ts = require('typescript'), found = [];
    for (const name of fs.readdirSync(root).filter((name) => /\.[cm]?[jt]s$/.test(name))) {
      const said = ts.transpileModule(fs.readFileSync(name, 'utf8'), { fileName: name, reportDiagnostics: true, compilerOptions: { allowJs: true } });
      found.push(...said.diagnostics.map((one) => `${name}: ${ts.flattenDiagnosticMessageText(one.messageText, ' ')}`));
    }
    return found;
  },
};

const log = console.log;
console.log = console.error; // what the tools say is no answer
commands[command]().then(
  (found) => log(JSON.stringify(found)),
  (error) => { console.error(error.stack || error); process.exit(1); },
);
