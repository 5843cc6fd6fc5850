"""The five stations of the desk; none knows another."""
