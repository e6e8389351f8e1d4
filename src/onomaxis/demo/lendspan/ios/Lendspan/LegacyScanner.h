#import <Foundation/Foundation.h>

NS_ASSUME_NONNULL_BEGIN

/// Reads the bar code on a tool; older than the rest of the app.
@interface LegacyScanner : NSObject
- (NSString *)queueName;
@end

NS_ASSUME_NONNULL_END
