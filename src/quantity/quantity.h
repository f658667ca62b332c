// Strong types for the figures of the trade. Bits and bytes never mix without a named conversion.
#pragma once

#include <compare>
#include <cstdint>

namespace metrodos::quantity {

/// A number of bytes, as counted by an application or an interface.
struct ByteCount {
    std::uint64_t bytes = 0;

    friend constexpr auto operator<=>(ByteCount, ByteCount) = default;
    friend constexpr ByteCount operator+(ByteCount a, ByteCount b) { return {a.bytes + b.bytes}; }
};

/// Bits per second, finite and not negative. Network rates and storage rates are decimal (ISO/IEC 80000-13).
class BitRate {
  public:
    constexpr BitRate() = default;
    static constexpr BitRate bitsPerSecond(double bps) { return BitRate(bps); }
    static constexpr BitRate megabits(double mbps) { return BitRate(mbps * 1e6); }
    static constexpr BitRate gigabits(double gbps) { return BitRate(gbps * 1e9); }
    static constexpr BitRate megabytes(double megabytesPerSecond) {
        return BitRate(megabytesPerSecond * 8e6);
    }
    /// The mean rate at which `count` passed in `seconds` (> 0).
    static constexpr BitRate of(ByteCount count, double seconds) {
        return BitRate(static_cast<double>(count.bytes) * 8.0 / seconds);
    }

    [[nodiscard]] constexpr double bps() const { return m_bps; }
    [[nodiscard]] constexpr double inMegabits() const { return m_bps / 1e6; }
    [[nodiscard]] constexpr double inMegabytes() const { return m_bps / 8e6; }

    friend constexpr auto operator<=>(BitRate, BitRate) = default;
    friend constexpr BitRate operator+(BitRate a, BitRate b) { return BitRate(a.m_bps + b.m_bps); }
    friend constexpr BitRate operator*(BitRate rate, double factor) { return BitRate(rate.m_bps * factor); }

  private:
    explicit constexpr BitRate(double bps)
        : m_bps(bps) {}
    double m_bps = 0;
};

/// A length of cable or a distance, not negative.
class Length {
  public:
    constexpr Length() = default;
    static constexpr Length metres(double m) { return Length(m); }
    static constexpr Length feet(double ft) { return Length(ft * 0.3048); } // the international foot
    [[nodiscard]] constexpr double inMetres() const { return m_metres; }

    friend constexpr auto operator<=>(Length, Length) = default;
    friend constexpr Length operator*(Length length, double factor) {
        return Length(length.m_metres * factor);
    }
    friend constexpr Length operator+(Length a, Length b) { return Length(a.m_metres + b.m_metres); }

  private:
    explicit constexpr Length(double m)
        : m_metres(m) {}
    double m_metres = 0;
};

/// A frequency, not negative.
class Frequency {
  public:
    constexpr Frequency() = default;
    static constexpr Frequency hertz(double hz) { return Frequency(hz); }
    static constexpr Frequency megahertz(double mhz) { return Frequency(mhz * 1e6); }
    [[nodiscard]] constexpr double inHertz() const { return m_hertz; }
    [[nodiscard]] constexpr double inMegahertz() const { return m_hertz / 1e6; }

    friend constexpr auto operator<=>(Frequency, Frequency) = default;

  private:
    explicit constexpr Frequency(double hz)
        : m_hertz(hz) {}
    double m_hertz = 0;
};

/// A ratio of powers on the logarithmic scale: a loss is positive.
struct Decibel {
    double value = 0;

    friend constexpr auto operator<=>(Decibel, Decibel) = default;
    friend constexpr Decibel operator+(Decibel a, Decibel b) { return {a.value + b.value}; }
    friend constexpr Decibel operator-(Decibel a, Decibel b) { return {a.value - b.value}; }
};

/// An amount in the job's own currency, in hundredths so that sums are exact.
struct Money {
    std::int64_t hundredths = 0;

    static constexpr Money units(double amount) {
        return {static_cast<std::int64_t>(amount * 100 + (amount < 0 ? -0.5 : 0.5))};
    }
    [[nodiscard]] constexpr double inUnits() const { return static_cast<double>(hundredths) / 100; }

    friend constexpr auto operator<=>(Money, Money) = default;
    friend constexpr Money operator+(Money a, Money b) { return {a.hundredths + b.hundredths}; }
    friend constexpr Money operator*(Money a, double factor) { return units(a.inUnits() * factor); }
};

} // namespace metrodos::quantity
