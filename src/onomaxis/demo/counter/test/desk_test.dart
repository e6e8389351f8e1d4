import 'package:flutter_test/flutter_test.dart';
import 'package:lendspan_counter/main.dart';

void main() {
  testWidgets('the desk listens', (tester) async {
    await tester.pumpWidget(const CounterApp());
    expect(find.textContaining('org.lendspan.counter'), findsOneWidget);
  });
}
