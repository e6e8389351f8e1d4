"""IDs that nobody publishes under: those of examples and templates, as data."""

from __future__ import annotations

from onomaxis import late

# First segments, or whole IDs, that templates of platforms and frameworks begin with.
EXAMPLES = late.compile(
    r"(?:com\.example|com\.mycompany|com\.companyname|com\.yourcompany|org\.example|com\.myapp|com\.helloworld|"
    r"org\.reactjs\.native\.example|io\.ionic\.starter|com\.getcapacitor|org\.nativescript|io\.cordova\.hellocordova|"
    r"com\.DefaultCompany|com\.tauri\.dev|host\.exp\.exponent|org\.name|com\.anonymous|"
    r"org\.apache\.cordova\.hellocordova)(?:\.|\Z)"
)
