"""Values that brands usually vary: told by key and form, grouped, derived, tried; taken in, they change nothing."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import commit_all, files, onomaxis
from hybrids import spelled
from onomaxis.identity.reading import read_identity
from onomaxis.projects.proposals import in_files, kind_of_value
from onomaxis.tree import Tree

# Key, text, what kind of value it is (None: none).
TOLD = [
    ("apiUrl", "https://api.bought.shop/v1", "url"), ("API_HOST", "api.bought.shop", "text"), ("docs", "https://x.shop", "url"),
    ("ns", "http://schemas.android.com/apk/res/android", None), ("baseUrl", "http://localhost:8080", None),
    ("facebook_app_id", "123456789012", "text"), ("google_maps_key", "AIzaSyA-123", "text"), ("app_id_label", "Your id", None),
    ("key_hint", "password", None), ("colorPrimary", "#112233", "color"), ("divider", "#DDDDDD", None), ("supportEmail", "help@bought.shop", "text"),
    ("mail_text", "write to help@bought.shop", None), ("hotline", "+49 30 1234567", "text"), ("currency", "USD", "text"),
    ("currency_label", "Pay in USD", None), ("login_scheme", "boughtshop", "text"), ("server", "@string/other", None), ("server", "${HOST}", None),
    ("legal_name", "Bought Shop e.V.", "text"), ("imprintAddress", "Am Markt 1, 12345 Ort", "text"), ("PRODUCT_COPYRIGHT", "© 2026 bought", "text"),
    ("company_hint", "Your company", None), ("operator", "plus", None), ("company", "%1$s GmbH", None), ("company", "@string/Other", None),
    ("server", "1.2.3", None), ("title", "Hello", None), ("", "", None),
]  # fmt: skip


@pytest.mark.parametrize(("key", "text", "kind"), TOLD)
def test_what_a_brand_varies(key: str, text: str, kind: str | None) -> None:
    """Key and form together tell; a sentence, a reference, a number of parts is none."""
    assert kind_of_value(key, text) == kind


CONSTANTS = {
    "lib/config.dart": "// const apiUrl = 'https://no.shop';\nclass Config {\n  static const String apiUrl = 'https://api.shop';\n  String f() { const innerUrl = 'https://inner.shop'; return ''; }\n}\nconst topUrl = 'https://top.shop';\n",
    "src/Keys.kt": 'object Keys {\n    const val MAPS_KEY: String = "AIza123456"\n    val joined = "https://$host/x"\n}\n',
    "src/env.ts": "export const env = {\n  apiUrl: 'https://env.shop',\n};\nexport const socketUrl: string = \"wss://s.shop\";\n",
    "src/plain.ts": "const apiUrl = 'https://plain.shop';\n",
    "src/brand.config.js": "module.exports = {\n  brand: { primary: '#123456', deep: { er: { apiUrl: 'https://deep.shop' } } },\n  cdnUrl: \"https://cdn.shop\",\n};\n",
    "src/urls.ts": "const Urls: Addresses = { apiUrl: 'https://typed.shop' };\nfunction f() { return { apiUrl: 'https://made.shop' }; }\nexport default { wsUrl: 'wss://default.shop' };\n",
    "test/config_test.dart": "const apiUrl = 'https://test.shop';\n",
    ".env": "export API_URL=https://dot.shop # note\nNAME=x\n",
}


def test_constants_and_variables() -> None:
    """Constants of files of constants, with their type; no comments, no computed ones, no other files."""
    found = {tuple(item.place.values()): item.text for item in in_files(Tree.of({path: text.encode() for path, text in CONSTANTS.items()}))}
    assert found == {
        ("Config.apiUrl", "lib/config.dart"): "https://api.shop",
        ("topUrl", "lib/config.dart"): "https://top.shop",
        ("Keys.MAPS_KEY", "src/Keys.kt"): "AIza123456",
        ("env.apiUrl", "src/env.ts"): "https://env.shop",
        ("socketUrl", "src/env.ts"): "wss://s.shop",
        ("exports.brand.primary", "src/brand.config.js"): "#123456",
        ("exports.cdnUrl", "src/brand.config.js"): "https://cdn.shop",
        ("Urls.apiUrl", "src/urls.ts"): "https://typed.shop",
        ("default.wsUrl", "src/urls.ts"): "wss://default.shop",
        ("API_URL", ".env"): "https://dot.shop",
    }


STRINGS = (
    '<resources>\n    <string name="app_name">Shop</string>\n    <string name="facebook_app_id">123456789012</string>\n'
    '    <string name="fb_scheme">fb123456789012</string>\n    <string name="welcome">Welcome</string>\n</resources>\n'
)
LISTED = "\t<key>FacebookAppID</key>\n\t<string>123456789012</string>\n\t<key>CFBundleURLTypes</key>\n\t<array>\n\t\t<dict>\n\t\t\t<key>CFBundleURLName</key>\n\t\t\t<string>login</string>\n\t\t\t<key>CFBundleURLSchemes</key>\n\t\t\t<array>\n\t\t\t\t<string>fb123456789012</string>\n\t\t\t</array>\n\t\t</dict>\n\t</array>\n</dict>"


def bought(folder: Path) -> Path:
    """A template as it is bought: one customer's values in resources, property list, constants, variables."""
    contents = spelled("flutter", "com.bought.shop", "Shop", "1.0.0", "3")
    contents["android/app/src/main/res/values/strings.xml"] = STRINGS
    contents["ios/Runner/Info.plist"] = contents["ios/Runner/Info.plist"].replace("</dict>", LISTED, 1)
    root = files(
        folder,
        {**contents, ".env": "API_URL=https://api.bought.shop\nCLIENT_SECRET=s3cr3tvalue9\n", "lib/config.dart": "const apiUrl = 'https://api.bought.shop';\n"},
    )
    commit_all(root)
    return root


def test_a_bought_template_becomes_another_customers(tmp_path: Path) -> None:
    """Adopted with its values, a second customer is put on it by changing texts alone; no place is typed by hand."""
    root = bought(tmp_path)
    hint = onomaxis("adopt", root, "--dry-run")
    assert "--values" in hint.err and "facebook-app-id" in hint.err
    done = onomaxis("adopt", root, "--values", "--strike", "client-secret", "--json")
    assert done.code == 0 and any("fb-scheme" in line and "fb{facebook-app-id} (2 places)" in line for line in done.json["summary"])
    identity = root / "onomaxis.toml"
    file = read_identity("onomaxis.toml", identity.read_bytes())
    values = {value.name: len(value.places) for value in file.values}
    assert values == {"facebook-app-id": 2, "fb-scheme": 2, "api-url": 2}
    assert onomaxis("stamp", root, "--json", "--allow-dirty").json["files"] == []
    text = identity.read_text().replace("com.bought.shop", "org.lendspan").replace('"Shop"', '"Lend"')
    identity.write_text(text.replace("123456789012", "999988887777").replace("https://api.bought.shop", "https://api.lendspan.org"))
    assert onomaxis("stamp", root, "--allow-dirty").code == 0
    left = [path for path in root.rglob("*") if path.is_file() and ".git" not in path.parts and ".onomaxis" not in path.parts]
    assert not [path for path in left if b"123456789012" in path.read_bytes() or b"api.bought.shop" in path.read_bytes()]
    assert not [item for item in onomaxis("check", root, "--json").json["findings"] if item["severity"] == "error"]


def test_a_secret_is_not_shown(tmp_path: Path) -> None:
    """What is secret by its name is declared so, and hidden in what is printed."""
    root = bought(tmp_path)
    done = onomaxis("adopt", root, "--values")
    assert "client-secret" in done.err and "s3cr3tvalue9" not in done.err + done.out
    assert "secret = true" in (root / "onomaxis.toml").read_text()


def test_flavors_have_their_own(tmp_path: Path) -> None:
    """A value that a flavor overrides is learnt for it; the file that results stamps nothing."""
    root = bought(tmp_path)
    assert onomaxis("flavor", "add", "pennywick", root, "--id", "org.lendspan.pennywick", "--base", "shop").code == 0
    own = root / "android/app/src/pennywick/res/values/strings.xml"
    own.parent.mkdir(parents=True, exist_ok=True)
    own.write_text('<resources>\n    <string name="facebook_app_id">555566667777</string>\n</resources>\n')
    done = onomaxis("adopt", root, "--values", "--allow-dirty", "--json")
    assert done.code == 0, done.out
    text = (root / "onomaxis.toml").read_text()
    assert "[flavors.pennywick.values]" in text and '"555566667777"' in text
    assert onomaxis("stamp", root, "--json", "--allow-dirty").json["files"] == []


ENGLISH, GERMAN = "Welcome to Lendspan!", "Willkommen bei Leihspanne, {user}!"
SPOKEN = {
    "android/app/src/main/res/values/more.xml": f'<resources><string name="welcome">{ENGLISH}</string><string name="plain">Lendspanish</string></resources>\n',
    "android/app/src/main/res/values-de/more.xml": f'<resources><string name="app_name">Leihspanne</string><string name="welcome">{GERMAN}</string></resources>\n',
    "lib/l10n/app_en.arb": f'{{"@@locale": "en", "hello": "{ENGLISH}", "@hello": {{}}}}\n',
    "assets/i18n/en-GB.json": f'{{"hello": "{ENGLISH}", "bye": "Bye"}}\n',
    "windows/runner/Runner.rc": 'VALUE "CompanyName", "Lend ""LV"" e.V." "\\0"\nVALUE "LegalCopyright", "(C) 2026 Lend ""LV"" e.V." "\\0"\n',
    "macos/Runner/Configs/AppInfo.xcconfig": "PRODUCT_NAME = lend\nPRODUCT_COPYRIGHT = © 2026 Others. // all\n",
}


def test_texts_with_the_name_and_legal_ones_follow(tmp_path: Path) -> None:
    """Adopted, they change nothing; renamed, each says the new name in its language; what is not a word of it stays."""
    contents = spelled("flutter", "org.lendspan", "Lendspan", "1.0.0", "3")
    root = files(tmp_path, {**contents, **SPOKEN})
    assert onomaxis("adopt", root, "--values", "--yes").code == 0
    identity = (root / "onomaxis.toml").read_text()
    values = {item.name: item for item in read_identity("onomaxis.toml", identity.encode()).values}
    assert {name: item.template for name, item in values.items() if item.template} == {
        "welcome": "Welcome to {name}!", "welcome-de": "Willkommen bei {name.de}, {{user}}!", "hello-en": "Welcome to {name}!",
        "hello-en-gb": "Welcome to {name}!", "legal-copyright": "(C) 2026 {company-name}",
    }  # fmt: skip
    assert {"company-name", "product-copyright"} <= values.keys() and onomaxis("stamp", root, "--json").json["files"] == []
    before = {path: (root / path).read_text() for path in SPOKEN}
    done = onomaxis("rename", root, "--name", "Borrow", "--locale-name", "de=Borg", "--yes", "--json", "--allow-dirty")
    assert done.code == 0, done.err
    for path, text in before.items():
        assert (root / path).read_text() == text.replace("to Lendspan!", "to Borrow!").replace("Leihspanne", "Borg"), path
    assert onomaxis("stamp", root, "--json").json["files"] == []
    assert not [item for item in done.json["residue"] if "Welcome" in item["text"] or "Willkommen" in item["text"]]
    told = (
        (root / "onomaxis.toml")
        .read_text()
        .replace('company-name = "Lend \\"LV\\" e.V."', 'company-name = "Borrow \\"BV\\""')
        .replace('"© 2026 Others."', '"© 2027 Ours"')
    )
    (root / "onomaxis.toml").write_text(told)
    assert len(onomaxis("stamp", root, "--json", "--yes").json["files"]) == 2
    assert (
        'VALUE "CompanyName", "Borrow ""BV""" "\\0"\nVALUE "LegalCopyright", "(C) 2026 Borrow ""BV""" "\\0"' in (root / "windows/runner/Runner.rc").read_text()
    )
    assert "PRODUCT_COPYRIGHT = © 2027 Ours // all\n" in (root / "macos/Runner/Configs/AppInfo.xcconfig").read_text()
