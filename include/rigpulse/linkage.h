/* The way in which the declarations of these headers are linked: as C also from C++, and visible from a shared library,
 * which shows nothing else. */
#ifndef RIGPULSE_LINKAGE_H
#define RIGPULSE_LINKAGE_H

/* Names are C's in both languages. `restrict` is a word of C alone. */
#ifdef __cplusplus
#define RGP_EXTERN_C_BEGIN extern "C" { /* names as in C */
#define RGP_EXTERN_C_END   }
#define RGP_RESTRICT       /* C++ has no such word */
#else
#define RGP_EXTERN_C_BEGIN
#define RGP_EXTERN_C_END
#define RGP_RESTRICT restrict /* what it points at is reached by nothing else */
#endif

/* A shared library is built with hidden names; what stands between these two is shown. Compilers that do not know that
 * show what they like. */
#if defined(__GNUC__) && !defined(_WIN32)
#define RGP_VISIBLE_BEGIN _Pragma("GCC visibility push(default)") /* from here on shown */
#define RGP_VISIBLE_END   _Pragma("GCC visibility pop")           /* as before */
#else
#define RGP_VISIBLE_BEGIN
#define RGP_VISIBLE_END
#endif

/* Around the declarations of a header. */
#define RGP_DECLARATIONS_BEGIN RGP_VISIBLE_BEGIN RGP_EXTERN_C_BEGIN
#define RGP_DECLARATIONS_END   RGP_EXTERN_C_END RGP_VISIBLE_END

#endif
