import 'package:flutter/material.dart';
import 'package:lendspan_counter/desk.dart';

void main() => runApp(const CounterApp());

/// The whole tablet: one desk.
class CounterApp extends StatelessWidget {
  const CounterApp({super.key});

  @override
  Widget build(BuildContext context) {
    return MaterialApp(
      title: 'Lendspan Counter',
      home: Desk(channel: const String.fromEnvironment('CHANNEL', defaultValue: 'org.lendspan.counter/scanner')),
    );
  }
}
