/* How the declarations of these headers are linked: as C also from C++, and visible from a shared library, which shows
 * nothing else. */
#ifndef RIGPULSE_LINKAGE_H
#define RIGPULSE_LINKAGE_H

#ifdef __cplusplus
#define RGP_EXTERN_C_BEGIN extern "C" {
#define RGP_EXTERN_C_END   }
#define RGP_RESTRICT
#else
#define RGP_EXTERN_C_BEGIN
#define RGP_EXTERN_C_END
#define RGP_RESTRICT restrict
#endif

#if defined(__GNUC__) && !defined(_WIN32)
#define RGP_VISIBLE_BEGIN _Pragma("GCC visibility push(default)")
#define RGP_VISIBLE_END   _Pragma("GCC visibility pop")
#else
#define RGP_VISIBLE_BEGIN
#define RGP_VISIBLE_END
#endif

/* Around the declarations of a header. */
#define RGP_DECLARATIONS_BEGIN RGP_VISIBLE_BEGIN RGP_EXTERN_C_BEGIN
#define RGP_DECLARATIONS_END   RGP_EXTERN_C_END RGP_VISIBLE_END

#endif
