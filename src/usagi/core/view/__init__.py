"""What the page is told of a solo, already in words: it only decides where on the screen it goes."""
