"""Extensions that come with Gonfalon. Each is a package with a manifest; docs/extensions.md tells how to write one."""
