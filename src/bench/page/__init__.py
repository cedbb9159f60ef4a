"""The frame of a build page: daylight strip, run, entry sheets and how anything is worded."""
