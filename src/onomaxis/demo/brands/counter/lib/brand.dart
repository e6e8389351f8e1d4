/// What differs per neighbourhood.
class Brand {
  static const String server = 'https://lend.lendspan.org';
}
