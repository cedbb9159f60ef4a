"""The quick check page, and a build begun from one."""
