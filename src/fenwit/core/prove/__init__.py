"""Does it do what was predicted?"""
