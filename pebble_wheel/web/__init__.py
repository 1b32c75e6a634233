"""The application in the browser: one module per screen, its template beside it in name."""
