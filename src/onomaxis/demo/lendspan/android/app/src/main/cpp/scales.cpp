#include <jni.h>

namespace {
constexpr const char* kProvider = "org/lendspan/app/data/LoanProvider";
constexpr const char* kRowSignature =
    "(ILjava/lang/String;[Lorg/lendspan/app/data/LoanProvider;)Lorg/lendspan/app/data/ToolScales$Row;";
}  // namespace

extern "C" {

JNIEXPORT jlong JNICALL
Java_org_lendspan_app_data_ToolScales_weigh(JNIEnv* env, jclass, jstring tool) {
    return env->FindClass(kProvider) == nullptr ? 0 : env->GetStringLength(tool);
}

JNIEXPORT jstring JNICALL
Java_org_lendspan_app_data_ToolScales_unit_1of(JNIEnv* env, jclass type, jint row) {
    return env->GetStaticMethodID(type, "row", kRowSignature) == nullptr ? nullptr : env->NewStringUTF("kg");
}

}  // extern "C"
