#import "LegacyScanner.h"
#import "Lendspan-Swift.h"

static NSString *const kQueue = @"org.lendspan.app.scanner";

@implementation LegacyScanner

- (NSString *)queueName {
    return kQueue;
}

@end
