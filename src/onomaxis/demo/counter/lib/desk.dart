import 'package:flutter/material.dart';

/// Shows which tool is handed over.
class Desk extends StatelessWidget {
  const Desk({super.key, required this.channel});

  final String channel;

  @override
  Widget build(BuildContext context) => Center(child: Text('Listening on $channel'));
}
