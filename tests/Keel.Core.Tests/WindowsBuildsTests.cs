using Keel.Core.Windows;

namespace Keel.Core.Tests;

/// <summary>Builds that have the same files: a Windows 10 of build 19045 runs programs that say 10.0.19041.</summary>
public sealed class WindowsBuildsTests
{
    [Theory]
    [InlineData(19041, 19045, true)]
    [InlineData(19044, 19045, true)]
    [InlineData(18362, 18363, true)]
    [InlineData(22621, 22631, true)]
    [InlineData(26100, 26200, true)]
    [InlineData(7601, 7601, true)]
    [InlineData(22000, 22621, false)]
    [InlineData(18363, 19041, false)]
    [InlineData(19045, 20348, false)]
    [InlineData(22631, 26100, false)]
    [InlineData(7600, 7601, false)]
    [InlineData(0, 19045, false)]
    public void They_are_those_that_a_yearly_version_only_switched_on(int one, int other, bool areSame)
    {
        WindowsBuilds.AreOfSameFiles(one, other).ShouldBe(areSame);
        WindowsBuilds.AreOfSameFiles(other, one).ShouldBe(areSame);
    }
}
