"""Station: TDC, by positive stop or equal drop."""
