"""What is the workshop's own: settings, rows, jobs brought in and out, copies, the demo."""
