"""From the counter: samples, products, limits, custody."""
