//! Browser journeys live in `tests/`: the real server, the real database, the real interface in headless Chromium.
