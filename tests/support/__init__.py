"""What tests of several folders share: designs, what they are made of, and how the product is started and looked at."""
